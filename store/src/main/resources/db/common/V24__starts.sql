-- Where each schedule stands (I10).
create table schedule_mark (
    trigger_id varchar(80) primary key,
    rhythm varchar(2000) not null,
    next_at timestamp(3) with time zone,
    waits boolean not null
);

-- What became of its times: each that started something, and those that did not, told as one where they came in a row.
create table schedule_turn (
    trigger_id varchar(80) not null,
    planned_at timestamp(3) with time zone not null,
    last_at timestamp(3) with time zone not null,
    how_many bigint not null,
    verdict varchar(20) not null,
    ticket varchar(80),
    note varchar(1000),
    primary key (trigger_id, planned_at)
);

-- Calls of hooks (I9). What they gave stands on the record of what they started.
create table hook_call (
    id varchar(40) primary key,
    trigger_id varchar(80) not null,
    came_at timestamp(3) with time zone not null,
    delivery varchar(64),
    body_hash varchar(64) not null,
    caller varchar(300) not null,
    ticket varchar(80),
    problem varchar(1000),
    constraint hook_call_delivery unique (trigger_id, delivery)
);
create index hook_call_of on hook_call (trigger_id, came_at);
create index hook_call_at on hook_call (came_at);

insert into ticket_counter (kind, last) values ('routine', 100);
insert into duty (name, node, until_at) values ('starts', '', timestamp with time zone '2000-01-01 00:00:00+00');

-- Where each watch stands, and what it saw: stretches of the same verdict (I11).
create table watch_stand (
    watch varchar(80) primary key,
    next_at timestamp(3) with time zone not null,
    passed bigint not null,
    body varchar(2000) not null
);

create table watch_stretch (
    watch varchar(80) not null,
    from_at timestamp(3) with time zone not null,
    to_at timestamp(3) with time zone not null,
    said varchar(20) not null,
    how_many bigint not null,
    last_values varchar(4000) not null,
    note varchar(1000),
    primary key (watch, from_at)
);
