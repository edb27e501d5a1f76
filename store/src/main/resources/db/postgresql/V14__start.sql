-- What the scripts for the built-in database lead to, up to their number 14, for PostgreSQL: a test compares the two. Scripts with
-- a higher number are for both.
create table person (
    id varchar(80) primary key,
    name varchar(200) not null,
    mail varchar(300) not null,
    roles varchar(300) not null,
    active boolean not null,
    password varchar(300),
    last_seen timestamp(3) with time zone,
    manager varchar(80) references person (id)
);
create index person_manager on person (manager);

create table api_token (
    id varchar(80) primary key,
    token_hash varchar(64) not null unique,
    person varchar(80) not null references person (id),
    name varchar(200) not null,
    created_at timestamp(3) with time zone not null,
    scope varchar(10) default 'all' not null,
    expires_at timestamp(3) with time zone not null,
    mac varchar(64)
);
create index api_token_person on api_token (person);

create table act_as_grant (
    person varchar(80) primary key references person (id),
    grantee varchar(80) not null references person (id),
    until_at timestamp(3) with time zone not null
);
create index act_as_grant_grantee on act_as_grant (grantee);

create table team (
    id varchar(80) primary key,
    name varchar(200) not null,
    calendar varchar(80)
);

create table team_member (
    team varchar(80) not null references team (id),
    person varchar(80) not null references person (id),
    primary key (team, person)
);
create index team_member_person on team_member (person);

create table journal (
    number bigint generated always as identity primary key,
    at timestamp(3) with time zone not null,
    person varchar(80) not null references person (id),
    subject varchar(40) not null,
    subject_id varchar(170) not null,
    did varchar(20) not null,
    detail varchar(8000)
);
create index journal_newest on journal (at, number);
create index journal_person on journal (person);

create table ticket_head (
    ticket varchar(80) primary key,
    seq bigint not null,
    head varchar(64) not null,
    snapshot_seq bigint not null,
    updated_at timestamp(3) with time zone not null,
    next_due timestamp(3) with time zone
) with (fillfactor = 70, autovacuum_vacuum_scale_factor = 0.02, autovacuum_vacuum_threshold = 1000);

create table alarm (
    ticket varchar(80) primary key,
    due timestamp(3) with time zone not null,
    leased_until timestamp(3) with time zone
) with (fillfactor = 70, autovacuum_vacuum_scale_factor = 0.02, autovacuum_vacuum_threshold = 1000);
create index alarm_due on alarm (due);

create table entry (
    ticket varchar(80) not null,
    seq bigint not null,
    at timestamp(3) with time zone not null,
    kind varchar(40) not null,
    sealed text not null,
    hash varchar(64) not null,
    content text,
    salt varchar(64),
    command varchar(120),
    primary key (ticket, seq)
);
create index entry_command on entry (ticket, command);

create table signal_kept (
    id varchar(120) primary key,
    signal varchar(200) not null,
    signal_key varchar(200),
    body text not null,
    came_at timestamp(3) with time zone not null,
    taken varchar(80)
);
create index signal_kept_open on signal_kept (signal, taken, came_at);

create table undelivered (
    id varchar(250) primary key,
    ticket varchar(80) not null,
    visit varchar(80),
    message varchar(120) not null,
    person varchar(80) not null,
    purpose varchar(40) not null,
    payload text not null,
    why varchar(1000),
    failed_at timestamp(3) with time zone not null
);
create index undelivered_newest on undelivered (failed_at);

create table ci (
    id varchar(80) primary key,
    name varchar(200) not null,
    kind varchar(80) not null,
    service varchar(80),
    site varchar(80),
    address varchar(200),
    owner varchar(80),
    life varchar(20) not null,
    attributes text not null,
    revision bigint default 0 not null
);
create index ci_service on ci (service);

create table ci_relation (
    from_ci varchar(80) not null references ci (id),
    relation varchar(40) not null,
    to_ci varchar(80) not null references ci (id),
    primary key (from_ci, relation, to_ci)
);
create index ci_relation_to on ci_relation (to_ci);

create table ci_change (
    ticket varchar(80) not null,
    seq bigint not null,
    name varchar(80) not null,
    ci varchar(80) not null references ci (id),
    at timestamp(3) with time zone not null,
    before_value text,
    after_value text,
    primary key (ticket, seq, name)
);
create index ci_change_ci on ci_change (ci, at);

create table document (
    kind varchar(40) not null,
    name varchar(80) not null,
    body text not null,
    primary key (kind, name)
);

create table revision (
    id integer primary key,
    number bigint not null
);

create table workflow (
    id varchar(80) primary key,
    name varchar(200) not null,
    owner varchar(80) not null,
    live_version integer,
    retired boolean not null,
    draft text,
    draft_revision bigint not null,
    draft_by varchar(80),
    draft_at timestamp(3) with time zone
);

create table workflow_version (
    workflow varchar(80) not null references workflow (id),
    number integer not null,
    body text not null,
    published_at timestamp(3) with time zone not null,
    published_by varchar(80) not null,
    primary key (workflow, number)
);

create table service (
    id varchar(80) primary key,
    name varchar(200) not null,
    passengers boolean not null,
    owner varchar(80),
    calendar varchar(80),
    targets varchar(4000) default '{}' not null
);

create table work_for (
    visit varchar(170) not null,
    who varchar(82) not null,
    primary key (visit, who)
);
create index work_for_who on work_for (who, visit);

create table mail_ask (
    id varchar(120) primary key,
    ticket varchar(80) not null,
    visit varchar(80),
    person varchar(80) not null,
    purpose varchar(20) not null,
    round_number integer not null,
    digest varchar(64) not null,
    at timestamp(3) with time zone not null
);
create index mail_ask_at on mail_ask (at);

create table ticket (
    id varchar(80) primary key,
    kind varchar(20) not null,
    title varchar(500) not null,
    state varchar(40) not null,
    ended boolean not null,
    priority varchar(2) not null,
    requester varchar(80),
    service varchar(80),
    ci varchar(80),
    team varchar(80),
    assignee varchar(80),
    created_at timestamp(3) with time zone not null,
    target varchar(10),
    target_due timestamp(3) with time zone,
    target_missed boolean default false not null
) with (fillfactor = 70, autovacuum_vacuum_scale_factor = 0.02, autovacuum_vacuum_threshold = 1000);
create index ticket_open on ticket (ended, priority, created_at desc, id);
create index ticket_created on ticket (created_at desc, id);
create index ticket_requester on ticket (requester, created_at);
create index ticket_ci on ticket (ci, created_at);
create index ticket_service on ticket (service, ended, created_at);
create index ticket_team on ticket (team, ended, created_at);
create index ticket_assignee on ticket (assignee, ended);

create table ticket_room (
    ticket varchar(80) primary key references ticket (id),
    room varchar(255) not null unique,
    keeps_all boolean not null
);

create table cover (
    person varchar(80) not null references person (id),
    scope varchar(20) not null,
    cover varchar(80) not null references person (id),
    from_at timestamp(3) with time zone not null,
    until_at timestamp(3) with time zone not null,
    primary key (person, scope)
);
create index cover_who on cover (cover, until_at);

create table outbox (
    id varchar(120) primary key,
    ticket varchar(80) not null,
    visit varchar(80),
    kind varchar(20) not null,
    purpose varchar(20) not null,
    queue varchar(120) not null,
    payload text not null,
    created_at timestamp(3) with time zone not null,
    due timestamp(3) with time zone not null,
    leased_until timestamp(3) with time zone,
    lease varchar(40),
    tries integer not null
) with (fillfactor = 70, autovacuum_vacuum_scale_factor = 0.02, autovacuum_vacuum_threshold = 1000);
create index outbox_due on outbox (due);

create table raised (
    command varchar(120) primary key,
    ticket varchar(80) not null,
    at timestamp(3) with time zone not null
);

create table workflow_trigger (
    id varchar(80) primary key,
    workflow varchar(80) not null references workflow (id),
    position integer not null,
    body text not null,
    place integer default 0 not null
);
create index workflow_trigger_workflow on workflow_trigger (workflow, position);

create table chat_ask (
    event varchar(255) primary key,
    number bigint not null,
    room varchar(255) not null,
    person varchar(80) not null,
    visit varchar(80) not null,
    round_number integer not null,
    digest varchar(64) not null,
    matter varchar(400) default 'What was asked' not null,
    asked_at timestamp(6) with time zone default CURRENT_timestamp not null,
    settled boolean default false not null
);
create index chat_ask_room on chat_ask (room, number);
create index chat_ask_visit on chat_ask (visit);

create table progress (
    name varchar(40) primary key,
    upto bigint not null
);

create table ticket_counter (
    kind varchar(20) primary key,
    last bigint not null
);

create table work_done (
    who varchar(90) not null,
    at timestamp(3) with time zone not null,
    visit varchar(170) not null,
    primary key (who, at, visit)
);

create table signal_wait (
    visit varchar(80) primary key,
    ticket varchar(80) not null references ticket (id),
    signal varchar(200) not null,
    signal_key varchar(200),
    since timestamp(3) with time zone not null
);
create index signal_wait_signal on signal_wait (signal, since);
create index signal_wait_ticket on signal_wait (ticket);

create table log_pending (
    number bigint generated by default as identity primary key,
    ticket varchar(80) not null,
    seq bigint not null,
    hash varchar(64) not null
) with (fillfactor = 70, autovacuum_vacuum_scale_factor = 0.02, autovacuum_vacuum_threshold = 1000);

create table work_item (
    visit varchar(170) primary key,
    ticket varchar(80) not null references ticket (id),
    kind varchar(20) not null,
    name varchar(300) not null,
    workflow varchar(200) not null,
    due timestamp(3) with time zone,
    opened_at timestamp(3) with time zone not null,
    is_open boolean not null,
    claimed_by varchar(80),
    closed_at timestamp(3) with time zone,
    closed_by varchar(90),
    outcome varchar(300),
    came_late varchar(4000)
);
create index work_item_ticket on work_item (ticket);

create table file_bytes (
    hash varchar(64) primary key,
    bytes bytea not null
);

create table file_use (
    ticket varchar(80) not null,
    seq bigint not null,
    hash varchar(64) not null,
    primary key (ticket, seq)
);
create index file_use_hash on file_use (hash);

create table ticket_word (
    word varchar(40) not null,
    ticket varchar(80) not null,
    seq bigint not null,
    primary key (word, ticket, seq)
);
create index ticket_word_ticket on ticket_word (ticket, word);

create table form_draft (
    visit varchar(80) not null,
    person varchar(80) not null references person (id),
    saved_at timestamp(3) with time zone not null,
    form text not null,
    primary key (visit, person)
);
create index form_draft_age on form_draft (saved_at);
create index form_draft_person on form_draft (person);

create table log_leaf (
    number bigint primary key,
    ticket varchar(80) not null,
    seq bigint not null,
    hash varchar(64) not null
);
create index log_leaf_ticket on log_leaf (ticket, seq);

create table known_answer (
    id varchar(80) primary key,
    question varchar(500) not null,
    answer text not null,
    service varchar(80) references service (id),
    source varchar(500) not null,
    valid_until date,
    keeper varchar(80) not null references person (id),
    helped integer not null
);
create index known_answer_keeper on known_answer (keeper);
create index known_answer_service on known_answer (service);

create table log_tile (
    level integer not null,
    number bigint not null,
    bytes bytea not null,
    primary key (level, number)
);

create table duty (
    name varchar(40) primary key,
    node varchar(80) not null,
    until_at timestamp(3) with time zone not null
);

create table reach (
    person varchar(80) primary key references person (id),
    chat varchar(255),
    body varchar(2000) not null
);
create index reach_chat on reach (chat);

create table chat_room (
    person varchar(80) primary key references person (id),
    room varchar(255) not null
);

create table session (
    token_hash varchar(64) primary key,
    person varchar(80) not null references person (id),
    csrf varchar(64) not null,
    expires_at timestamp(3) with time zone not null,
    sees_as varchar(80) references person (id),
    mac varchar(64) not null
);
create index session_expires on session (expires_at);
create index session_person on session (person);
create index session_sees_as on session (sees_as);

create table chat_heard (
    id integer primary key,
    since varchar(255) not null
);

create table run (
    id varchar(80) primary key,
    ticket varchar(80) not null references ticket (id),
    workflow varchar(80) not null,
    version integer not null,
    name varchar(200) not null,
    owner varchar(80) not null,
    trigger_id varchar(80),
    status varchar(20) not null,
    started_at timestamp(3) with time zone not null,
    ended_at timestamp(3) with time zone,
    stalled_since timestamp(3) with time zone,
    result varchar(300),
    parent varchar(80)
);
create index run_parent on run (parent);
create index run_ticket on run (ticket);
create index run_workflow on run (workflow, started_at);
create index run_trigger on run (trigger_id, started_at);
create index run_status on run (status, owner);
create index run_list on run (status, started_at, id);
create index run_started on run (started_at, id);

create table checkpoint (
    number bigint primary key,
    epoch integer,
    size bigint,
    root varchar(64),
    at timestamp(3) with time zone not null,
    text text not null,
    hash varchar(64) not null,
    signature varchar(200) not null
);

create table saved_view (
    id varchar(80) primary key,
    person varchar(80) not null references person (id),
    name varchar(100) not null,
    query varchar(1000) not null,
    shared boolean not null,
    place varchar(20) default 'tickets' not null
);
create index saved_view_person on saved_view (person);

create table case_snapshot (
    ticket varchar(80) primary key,
    seq bigint not null,
    fold integer not null,
    body text not null,
    head varchar(64),
    mac varchar(64)
);

create table epoch (
    number integer primary key,
    text text not null,
    hash varchar(64) not null
);

create table log_state (
    id integer primary key,
    epoch integer not null,
    size bigint not null,
    held_since timestamp(3) with time zone
);

create table node (
    id varchar(80) primary key,
    up_since timestamp(3) with time zone not null,
    seen_until timestamp(3) with time zone not null
);

insert into revision (id, number) values (1, 1);
insert into ticket_counter (kind, last) values ('incident', 1000), ('change', 300), ('request', 200);
insert into log_state (id, epoch, size) values (1, 1, 0);
insert into progress (name, upto) values ('words', 0);
insert into duty (name, node, until_at) values
    ('log', '', timestamp with time zone '2000-01-01 00:00:00+00'),
    ('chat', '', timestamp with time zone '2000-01-01 00:00:00+00'),
    ('mailbox', '', timestamp with time zone '2000-01-01 00:00:00+00'),
    ('care', '', timestamp with time zone '2000-01-01 00:00:00+00');
