-- Actions in versions (M1): a mend keeps what an action asks for and gives, so that those who use the version get it.
create table action_version (
    action varchar(80) not null,
    number integer not null,
    mend integer not null,
    body varchar(1000000) not null,
    set_at timestamp(3) with time zone not null,
    set_by varchar(80),
    why varchar(1000),
    primary key (action, number, mend)
);

insert into action_version (action, number, mend, body, set_at, set_by, why)
select name, 1, 0, body, current_timestamp, null, null from document where kind = 'action';

-- Which version a published workflow uses, where that is not the first.
create table workflow_action (
    workflow varchar(80) not null,
    version integer not null,
    action varchar(80) not null,
    number integer not null,
    primary key (workflow, version, action)
);

-- Actions that were tried from their page (M3). What was sent and answered stands here without secrets.
create table action_try (
    id varchar(40) primary key,
    action varchar(80) not null,
    begun_at timestamp(3) with time zone not null,
    over_at timestamp(3) with time zone not null,
    person varchar(80) not null,
    inputs varchar(20000) not null,
    sent varchar(40000) not null,
    said varchar(20) not null,
    why varchar(2000),
    gave varchar(40000),
    answer varchar(100000),
    millis bigint
);
create index action_try_of on action_try (action, begun_at);

-- How each call of a step went, for what actions and connections come to (M5, M6); of the record, where all of it stands.
create table call_made (
    ticket varchar(80) not null,
    seq bigint not null,
    action varchar(80) not null,
    connection varchar(80) not null,
    made_at timestamp(3) with time zone not null,
    said varchar(20) not null,
    millis bigint not null,
    primary key (ticket, seq)
);
create index call_made_of on call_made (action, made_at);
create index call_made_at on call_made (made_at);

-- What a call says while it goes on (M7), in the order it was heard.
create table call_log (
    id varchar(120) not null,
    part integer not null,
    heard_at timestamp(3) with time zone not null,
    body varchar(200000) not null,
    primary key (id, part)
);
create index call_log_at on call_log (heard_at);
