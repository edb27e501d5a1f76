-- When whoever answers for an action or a trigger was told that it goes as it should not (M5, I27).
create table keeper_told (
    ticket varchar(80) not null,
    seq bigint not null,
    about varchar(200) not null,
    told_at timestamp(3) with time zone not null,
    primary key (ticket, seq)
);
create index keeper_told_of on keeper_told (about, told_at);
