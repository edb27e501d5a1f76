-- Who decides about what somebody asks for.
alter table person add column manager varchar(80) references person (id);

-- As whom an administrator looks at the application.
alter table session add column sees_as varchar(80) references person (id);

-- What was changed in the set-up, by whom: accounts, groups, services, CIs, calendars, rotas, actions.
create table journal (
    number bigint generated always as identity primary key,
    at timestamp(3) with time zone not null,
    person varchar(80) not null references person (id),
    subject varchar(40) not null,
    subject_id varchar(170) not null,
    did varchar(20) not null,
    detail varchar(8000)
);
create index journal_newest on journal (at, number);
