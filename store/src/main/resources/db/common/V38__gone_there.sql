-- Whether theirs is still there is asked now and then (I15): when next, and since when they have said that it is gone.
alter table partner_ticket add column ask_at timestamp(3) with time zone;
alter table partner_ticket add column gone_at timestamp(3) with time zone;
update partner_ticket set ask_at = seen_at where state = 'followed';
create index partner_ticket_ask on partner_ticket (partner, ask_at);
