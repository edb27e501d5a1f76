-- Attached files: the bytes once each, and which entries refer to them.
create table file_bytes (
    hash varchar(64) primary key,
    bytes varbinary(20000000) not null
);

create table file_use (
    ticket varchar(80) not null,
    seq bigint not null,
    hash varchar(64) not null,
    primary key (ticket, seq)
);
create index file_use_hash on file_use (hash);
