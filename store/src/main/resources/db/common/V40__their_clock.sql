-- How far a partner's clock is ahead of ours (I16): who was later is told by it.
alter table partner_stand add column ahead_millis bigint;
