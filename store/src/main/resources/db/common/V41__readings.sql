-- Each reading of a watch by itself for seven days, and between what its numbers lay in a stretch (I11).
create table watch_reading (
    watch varchar(80) not null,
    at timestamp(3) with time zone not null,
    said varchar(20) not null,
    read_values varchar(4000) not null,
    note varchar(1000),
    primary key (watch, at)
);
create index watch_reading_at on watch_reading (at);

alter table watch_stretch add column extremes varchar(4000) default '{"numbers":{}}' not null;
