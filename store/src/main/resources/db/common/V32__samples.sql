-- What one keeps of what a source sent, by a name, to try mappings and conditions on (I4).
create table sample (
    source varchar(80) not null,
    name varchar(80) not null,
    kept_at timestamp(3) with time zone not null,
    kept_by varchar(80) not null,
    headers varchar(8000) not null,
    raw varchar(300000) not null,
    primary key (source, name)
);
