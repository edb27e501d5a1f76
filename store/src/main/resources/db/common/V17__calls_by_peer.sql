-- The queue of a call begins with its connection, so that calls of a peer that is slow can be left for later.
alter table outbox alter column queue set data type varchar(200);
