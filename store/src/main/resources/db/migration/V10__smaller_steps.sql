-- A durable commit writes, for every tree that a step has touched, all pages from the changed leaf up to the root. So what a
-- step rewrites is kept small, and tables that every step writes have no foreign keys: each would bring an index of its own
-- even where the primary key begins with the same column. Their rows are written in one place, under the ticket's lock.

-- The state of a case, no longer rewritten with every step.
create table case_snapshot (
    ticket varchar(80) primary key,
    seq bigint not null,
    fold int not null,
    body varchar(1000000) not null
);
insert into case_snapshot (ticket, seq, fold, body) select id, seq, fold, snapshot from ticket;
alter table ticket add column snapshot_seq bigint default 0 not null;
update ticket set snapshot_seq = seq;
alter table ticket drop column fold;
alter table ticket drop column snapshot;

-- Made anew, since the foreign keys of V1 have no names by which they could be dropped.
create table entry_2 (
    ticket varchar(80) not null,
    seq bigint not null,
    at timestamp(3) with time zone not null,
    kind varchar(40) not null,
    sealed varchar(1000000) not null,
    hash varchar(64) not null,
    content varchar(1000000),
    salt varchar(64),
    command varchar(120),
    primary key (ticket, seq)
);
insert into entry_2 (ticket, seq, at, kind, sealed, hash, content, salt, command)
    select ticket, seq, at, kind, sealed, hash, content, salt, command from entry order by ticket, seq;
drop table entry;
alter table entry_2 rename to entry;
create index entry_command on entry (ticket, command);

create table work_for_2 (
    visit varchar(170) not null,
    who varchar(82) not null,
    primary key (visit, who)
);
insert into work_for_2 (visit, who) select visit, who from work_for;
drop table work_for;
alter table work_for_2 rename to work_for;
create index work_for_who on work_for (who, visit);

create table outbox_2 (
    id varchar(120) primary key,
    ticket varchar(80) not null,
    visit varchar(80),
    kind varchar(20) not null,
    purpose varchar(20) not null,
    queue varchar(120) not null,
    payload varchar(1000000) not null,
    created_at timestamp(3) with time zone not null,
    due timestamp(3) with time zone not null,
    leased_until timestamp(3) with time zone,
    lease varchar(40),
    tries int not null
);
insert into outbox_2 (id, ticket, visit, kind, purpose, queue, payload, created_at, due, leased_until, lease, tries)
    select id, ticket, visit, kind, purpose, queue, payload, created_at, due, leased_until, lease, tries from outbox;
drop table outbox;
alter table outbox_2 rename to outbox;
create index outbox_due on outbox (due);
