-- To whom it was said how far the log reaches, and what they gave back. Of whoever gives nothing back only the last stays.
create table witness (
  name varchar(300) not null,
  number bigint not null,
  kind varchar(10) not null,
  given_at timestamp(3) with time zone not null,
  epoch integer not null,
  size bigint not null,
  checkpoint varchar(40000) not null,
  receipt varchar(40000),
  primary key (name, number)
);
