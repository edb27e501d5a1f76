-- Which chat server a place in what was heard belongs to (R13): another server knows nothing of it. Null in rows of before,
-- when there could be only one.
alter table chat_heard add column server varchar(300);
