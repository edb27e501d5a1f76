-- How people want to be reached.
create table reach (
    person varchar(80) primary key references person (id),
    chat varchar(255),
    body varchar(2000) not null
);
create index reach_chat on reach (chat);

-- The room with each person, and the decisions asked for there.
create table chat_room (
    person varchar(80) primary key references person (id),
    room varchar(255) not null
);

create table chat_ask (
    event varchar(255) primary key,
    number bigint not null,
    room varchar(255) not null,
    person varchar(80) not null,
    visit varchar(80) not null,
    round_number integer not null,
    digest varchar(64) not null
);
create index chat_ask_room on chat_ask (room, number);
create index chat_ask_visit on chat_ask (visit);

-- How far the chat was heard.
create table chat_heard (
    id integer primary key,
    since varchar(255) not null
);
