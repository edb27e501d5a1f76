-- Their tickets that were open before the desks were joined, taken over quietly (I15): which wait for it, and how far it has come.
alter table partner_ticket add column take_at timestamp(3) with time zone;
create index partner_ticket_take on partner_ticket (partner, take_at);
create table partner_takeover (
    partner varchar(80) primary key,
    since timestamp(3) with time zone not null,
    asked_by varchar(80) not null,
    asked_at timestamp(3) with time zone not null,
    state varchar(20) not null,
    taken int not null,
    refused int not null,
    ended int not null,
    problem varchar(1000)
);
