-- Words of what stands on records, so that tickets are found by them.
create table ticket_word (
    word varchar(40) not null,
    ticket varchar(80) not null,
    seq bigint not null,
    primary key (word, ticket, seq)
);
create index ticket_word_ticket on ticket_word (ticket, word);

-- Searches somebody wants to come back to.
create table saved_view (
    id varchar(80) primary key,
    person varchar(80) not null references person (id),
    name varchar(100) not null,
    query varchar(1000) not null,
    shared boolean not null
);
create index saved_view_person on saved_view (person);

-- Messages that could not be delivered, until somebody sends them again.
create table undelivered (
    id varchar(250) primary key,
    ticket varchar(80) not null,
    visit varchar(80),
    message varchar(120) not null,
    person varchar(80) not null,
    purpose varchar(40) not null,
    subject varchar(300) not null,
    payload varchar(30000) not null,
    why varchar(1000),
    failed_at timestamp(3) with time zone not null
);
create index undelivered_newest on undelivered (failed_at);

-- Answers that are known before anybody is asked.
create table known_answer (
    id varchar(80) primary key,
    question varchar(500) not null,
    answer varchar(20000) not null,
    service varchar(80) references service (id),
    source varchar(500) not null,
    valid_until date,
    keeper varchar(80) not null references person (id),
    helped integer not null
);
create index work_item_done on work_item (closed_by, closed_at);
