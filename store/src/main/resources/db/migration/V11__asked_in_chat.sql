-- What was asked in chat stays known when it is settled: a bare answer must not go to another question than the one meant.
alter table chat_ask add column matter varchar(400) not null default 'What was asked';
alter table chat_ask add column asked_at timestamp(9) with time zone not null default current_timestamp;
alter table chat_ask add column settled boolean not null default false;
