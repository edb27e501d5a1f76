-- How far a partner's clock is ahead of ours (I16): who was later is told by it.
alter table partner_stand add column ahead_millis bigint;

-- What is redacted on a ticket leaves what came and went about it at partners (D22).
create index partner_log_ticket on partner_log (ticket);
