-- What was wished of a CI, kept at the moment when it is planned no longer (M17). Of those that ceased before, nothing is known.
alter table ci add column wish varchar(1000000);
