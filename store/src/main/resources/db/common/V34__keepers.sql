-- When keepers of actions were told that they go badly again and again (M5).
create table keeper_told (
    ticket varchar(80) not null,
    seq bigint not null,
    action varchar(80) not null,
    told_at timestamp(3) with time zone not null,
    primary key (ticket, seq)
);
create index keeper_told_of on keeper_told (action, told_at);
