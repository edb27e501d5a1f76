-- The database writes all trees of a row anew with each update of it, also those of columns that stayed as they were. So what
-- every step changes stands apart from what lists are made of, and what only few steps change from both.
create table ticket_head (
    ticket varchar(80) primary key,
    seq bigint not null,
    head varchar(64) not null,
    snapshot_seq bigint not null,
    updated_at timestamp(3) with time zone not null,
    next_due timestamp(3) with time zone
);
insert into ticket_head (ticket, seq, head, snapshot_seq, updated_at, next_due)
    select id, seq, head, snapshot_seq, updated_at, next_due from ticket order by id;

-- When the clock rings next for a ticket, where it does.
create table alarm (
    ticket varchar(80) primary key,
    due timestamp(3) with time zone not null,
    leased_until timestamp(3) with time zone
);
insert into alarm (ticket, due) select id, next_due from ticket where next_due is not null order by id;
create index alarm_due on alarm (due);
drop index ticket_next_due;
alter table ticket drop column seq;
alter table ticket drop column head;
alter table ticket drop column snapshot_seq;
alter table ticket drop column updated_at;
alter table ticket drop column next_due;
alter table ticket drop column alarm_leased_until;

-- What people did, by which they find it again; whether it still counts says the item.
create table work_done (
    who varchar(90) not null,
    at timestamp(3) with time zone not null,
    visit varchar(170) not null,
    primary key (who, at, visit)
);
insert into work_done (who, at, visit)
    select closed_by, closed_at, visit from work_item where closed_by is not null and closed_at is not null;
drop index work_item_done;

-- Which node does what only one may do at a time, until when (K8).
create table duty (
    name varchar(40) primary key,
    node varchar(80) not null,
    until_at timestamp(3) with time zone not null
);
insert into duty (name, node, until_at) values
    ('log', '', timestamp with time zone '2000-01-01 00:00:00+00'),
    ('chat', '', timestamp with time zone '2000-01-01 00:00:00+00'),
    ('mailbox', '', timestamp with time zone '2000-01-01 00:00:00+00'),
    ('care', '', timestamp with time zone '2000-01-01 00:00:00+00');

-- The nodes that are there: a clock that rang while one of them was up has not been missed.
create table node (
    id varchar(80) primary key,
    up_since timestamp(3) with time zone not null,
    seen_until timestamp(3) with time zone not null
);
