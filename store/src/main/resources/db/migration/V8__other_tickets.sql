-- The visit of another ticket that called this run.
alter table run add column parent varchar(80);
create index run_parent on run (parent);

-- The order in which the triggers of all workflows are looked at.
alter table workflow_trigger add column place int default 0 not null;

-- How soon tickets of a service are to be responded to and restored, and where each ticket stands with that.
alter table service add column targets varchar(4000) default '{}' not null;
alter table ticket add column target varchar(10);
alter table ticket add column target_due timestamp(3) with time zone;
alter table ticket add column target_missed boolean default false not null;

-- What each mail was about, so that its answer is understood.
create table mail_ask (
    id varchar(120) primary key,
    ticket varchar(80) not null,
    visit varchar(80),
    person varchar(80) not null,
    purpose varchar(20) not null,
    round_number integer not null,
    digest varchar(64) not null,
    at timestamp(3) with time zone not null
);
create index mail_ask_at on mail_ask (at);

-- The room of each ticket that has one, and who was invited.
create table ticket_room (
    ticket varchar(80) primary key references ticket (id),
    room varchar(255) not null unique,
    keeps_all boolean not null
);
