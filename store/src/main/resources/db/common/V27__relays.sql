-- Relays: processes of ours in private networks, which only call out (M13). A relay is in once somebody let it in.
create table relay (
    id varchar(40) primary key,
    zone varchar(80) not null,
    name varchar(80) not null,
    public_key varchar(200) not null unique,
    standing varchar(10) not null,
    joined_at timestamp(3) with time zone not null,
    let_in_by varchar(80),
    boot varchar(40),
    turn bigint not null,
    seen_at timestamp(3) with time zone,
    version varchar(40),
    protocol integer,
    allowed varchar(64),
    may varchar(40000),
    two_at timestamp(3) with time zone
);
create index relay_of on relay (zone);

-- Codes by which a relay may ask to join: the hash of each, since the code itself is told once.
create table relay_code (
    hash varchar(64) primary key,
    zone varchar(80) not null,
    made_by varchar(80) not null,
    until_at timestamp(3) with time zone not null,
    relay varchar(40),
    refused integer not null
);

-- Calls that relays make, and what became of them (M15).
create table relay_work (
    id varchar(120) primary key,
    zone varchar(80) not null,
    connection varchar(80) not null,
    body varchar(2000000) not null,
    repeat_as varchar(10) not null,
    origin varchar(1000),
    standing varchar(10) not null,
    made_at timestamp(3) with time zone not null,
    relay varchar(40),
    given_at timestamp(3) with time zone,
    leased_until timestamp(3) with time zone,
    cancelled boolean not null,
    done varchar(6000000),
    signature varchar(200),
    settled_at timestamp(3) with time zone
);
create index relay_work_waits on relay_work (zone, standing, made_at);
create index relay_work_at on relay_work (relay, standing);
create index relay_work_over on relay_work (settled_at);
