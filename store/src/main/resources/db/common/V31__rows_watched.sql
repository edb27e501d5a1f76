-- Where a watch stands with each row of a list (I11).
alter table watch_stand alter column body set data type varchar(200000);
