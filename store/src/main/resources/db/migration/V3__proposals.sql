-- An item may be a proposal of a trigger: its id is the ticket's and the trigger's.
alter table work_item alter column visit varchar(170);
alter table work_for alter column visit varchar(170);

-- The list of runs, by what became of them, newest first.
create index run_list on run (status, started_at, id);
create index run_started on run (started_at, id);

-- Who acts for whom while they are away.
create table cover (
    person varchar(80) primary key references person (id),
    cover varchar(80) not null references person (id),
    from_at timestamp(3) with time zone not null,
    until_at timestamp(3) with time zone not null
);
create index cover_cover on cover (cover, until_at);
