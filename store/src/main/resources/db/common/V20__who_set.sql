-- Not everybody who sets something has an account: whoever can write the server's folder has none.
alter table journal add column who varchar(80);
update journal set who = person;
alter table journal drop column person;
alter table journal alter column who set not null;
