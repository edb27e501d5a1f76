-- Somebody may be covered by one person for tasks and by another for decisions.
create table cover_by_scope (
    person varchar(80) not null references person (id),
    scope varchar(20) not null,
    cover varchar(80) not null references person (id),
    from_at timestamp(3) with time zone not null,
    until_at timestamp(3) with time zone not null,
    primary key (person, scope)
);
insert into cover_by_scope (person, scope, cover, from_at, until_at)
    select person, 'all', cover, from_at, until_at from cover;
drop table cover;
alter table cover_by_scope rename to cover;
create index cover_who on cover (cover, until_at);

-- A group may have hours of its own.
alter table team add column calendar varchar(80);

-- Who may act as somebody else, for a time, because that person said so.
create table act_as_grant (
    person varchar(80) primary key references person (id),
    grantee varchar(80) not null references person (id),
    until_at timestamp(3) with time zone not null
);

-- A view is of the list of tickets, or of the Desk.
alter table saved_view add column place varchar(20) default 'tickets' not null;

-- What somebody has filled in of a task's form and not yet given.
create table form_draft (
    visit varchar(80) not null,
    person varchar(80) not null references person (id),
    saved_at timestamp(3) with time zone not null,
    form varchar(1000000) not null,
    primary key (visit, person)
);
create index form_draft_age on form_draft (saved_at);
