-- How far the audit has come that goes through all tickets within a week, a few at a time.
alter table progress add column place varchar(80);
alter table progress add column begun_at timestamp(3) with time zone;
insert into progress (name, upto) values ('audit', 0);
