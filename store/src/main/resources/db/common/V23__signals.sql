-- What came from sources, as it came, what it was understood as, and what became of it (I1).
create table signal (
    id varchar(40) primary key,
    source varchar(80) not null,
    came_at timestamp(3) with time zone not null,
    delivery varchar(64),
    body_hash varchar(64) not null,
    headers varchar(8000) not null,
    raw varchar(300000) not null,
    state varchar(20) not null,
    turn varchar(20),
    sort varchar(20),
    severity varchar(20),
    matter varchar(200),
    title varchar(300),
    ci varchar(80),
    ticket varchar(80),
    understood varchar(40000),
    why varchar(100000),
    problem varchar(1000),
    constraint signal_delivery unique (source, delivery)
);
create index signal_of_source on signal (source, id);
create index signal_of_matter on signal (matter, id);

-- What nobody has looked at yet, in the order in which it came.
create table signal_due (
    id varchar(40) primary key
);

-- What makes two signals the same fault, and how it stands (I19).
create table matter (
    name varchar(200) primary key,
    ticket varchar(80),
    in_fault boolean not null,
    needs_somebody boolean not null,
    last_at timestamp(3) with time zone not null,
    judge_at timestamp(3) with time zone,
    revision bigint not null,
    body varchar(20000) not null
);
create index matter_last on matter (last_at);
create index matter_ticket on matter (ticket);
create index matter_judge on matter (judge_at);

-- What was refused at the door: counted, with one sample of the words (I1).
create table source_refusal (
    source varchar(80) not null,
    at_minute timestamp(3) with time zone not null,
    reason varchar(40) not null,
    how_often bigint not null,
    words varchar(500) not null,
    primary key (source, at_minute, reason)
);

insert into duty (name, node, until_at) values ('signals', '', timestamp with time zone '2000-01-01 00:00:00+00');
