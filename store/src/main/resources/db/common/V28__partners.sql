-- Where each partner's desk stands: up to when it was read, and how patient we are with it (I15).
create table partner_stand (
    partner varchar(80) primary key,
    mark timestamp(3) with time zone,
    looked_at timestamp(3) with time zone,
    next_at timestamp(3) with time zone not null,
    failures int not null,
    failing_since timestamp(3) with time zone,
    problem varchar(1000)
);

-- Up to which place of the log it was seen what changed here.
create table partner_heed (
    partner varchar(80) primary key,
    upto bigint not null
);

-- Their tickets, as they came last, and what both sides agreed on (I16).
create table partner_ticket (
    partner varchar(80) not null,
    their_id varchar(200) not null,
    body_hash varchar(64) not null,
    body varchar(300000) not null,
    title varchar(300) not null,
    seen_at timestamp(3) with time zone not null,
    state varchar(20) not null,
    ticket varchar(80),
    memory varchar(100000) not null,
    ours_seq bigint not null,
    told_seq bigint not null,
    due boolean not null,
    next_at timestamp(3) with time zone not null,
    failures int not null,
    problem varchar(1000),
    primary key (partner, their_id)
);
create index partner_ticket_due on partner_ticket (partner, due, next_at);
create index partner_ticket_ours on partner_ticket (ticket);
create index partner_ticket_seen on partner_ticket (partner, seen_at);

-- What was said there and stands here already.
create table partner_comment (
    partner varchar(80) not null,
    their_id varchar(200) not null,
    comment_id varchar(200) not null,
    primary key (partner, their_id, comment_id)
);

-- What came in and what went out.
create table partner_log (
    id varchar(40) primary key,
    partner varchar(80) not null,
    at timestamp(3) with time zone not null,
    way varchar(3) not null,
    their_id varchar(200) not null,
    ticket varchar(80),
    verdict varchar(20) not null,
    raw varchar(20000) not null,
    meant varchar(20000),
    why varchar(1000)
);
create index partner_log_of on partner_log (partner, id);
create index partner_log_their on partner_log (partner, their_id, at);
create index partner_log_at on partner_log (at);

-- An item may be what a partner sees otherwise: its id is the ticket's, the partner's and the field's.
alter table work_item alter column visit set data type varchar(260);
alter table work_for alter column visit set data type varchar(260);

insert into duty (name, node, until_at) values ('partners', '', timestamp with time zone '2000-01-01 00:00:00+00');
