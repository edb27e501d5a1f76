-- What connections sign in with, encrypted under a key that is not in here. No value is ever shown.
create table secret (
    name varchar(80) primary key,
    sealed varchar(40000) not null,
    set_at timestamp(3) with time zone not null,
    set_by varchar(80)
);
