-- How far each subscription was told, and how patient it is (I17).
create table subscription_stand (
    subscription varchar(80) primary key,
    upto bigint not null,
    failures int not null,
    failing_since timestamp(3) with time zone,
    paused_until timestamp(3) with time zone,
    gone boolean not null
);

-- What was sent, or given up.
create table delivery (
    subscription varchar(80) not null,
    event varchar(120) not null,
    place bigint not null,
    kind varchar(40) not null,
    at timestamp(3) with time zone not null,
    state varchar(20) not null,
    tries int not null,
    answer varchar(500) not null,
    primary key (subscription, event)
);
create index delivery_of on delivery (subscription, place);
create index delivery_at on delivery (at);

insert into duty (name, node, until_at) values ('telling', '', timestamp with time zone '2000-01-01 00:00:00+00');
