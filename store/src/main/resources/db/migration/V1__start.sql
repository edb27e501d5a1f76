-- Long texts are varchar, not clob: rows on the hot path stay in their page, and PostgreSQL reads the same script.

create table person (
    id varchar(80) primary key,
    name varchar(200) not null,
    mail varchar(300) not null,
    roles varchar(300) not null,
    active boolean not null,
    password varchar(300),
    last_seen timestamp(3) with time zone
);

create table team (
    id varchar(80) primary key,
    name varchar(200) not null
);

create table team_member (
    team varchar(80) not null references team (id),
    person varchar(80) not null references person (id),
    primary key (team, person)
);
create index team_member_person on team_member (person);

create table session (
    token_hash varchar(64) primary key,
    person varchar(80) not null references person (id),
    csrf varchar(64) not null,
    expires_at timestamp(3) with time zone not null
);
create index session_expires on session (expires_at);

create table api_token (
    id varchar(80) primary key,
    token_hash varchar(64) not null unique,
    person varchar(80) not null references person (id),
    name varchar(200) not null,
    created_at timestamp(3) with time zone not null
);

create table service (
    id varchar(80) primary key,
    name varchar(200) not null,
    passengers boolean not null,
    owner varchar(80),
    calendar varchar(80)
);

create table ci (
    id varchar(80) primary key,
    name varchar(200) not null,
    kind varchar(80) not null,
    service varchar(80),
    site varchar(80),
    address varchar(200),
    owner varchar(80),
    life varchar(20) not null,
    attributes varchar(1000000) not null
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
    before_value varchar(20000),
    after_value varchar(20000),
    primary key (ticket, seq, name)
);
create index ci_change_ci on ci_change (ci, at);

-- Calendars, ladders, actions, connections and settings: small, read often, changed rarely.
create table document (
    kind varchar(40) not null,
    name varchar(80) not null,
    body varchar(1000000) not null,
    primary key (kind, name)
);

-- One row that counts changes of everything that is kept in memory by readers.
create table revision (
    id int primary key,
    number bigint not null
);
insert into revision (id, number) values (1, 1);

create table workflow (
    id varchar(80) primary key,
    name varchar(200) not null,
    owner varchar(80) not null,
    live_version int,
    retired boolean not null,
    draft varchar(1000000),
    draft_revision bigint not null,
    draft_by varchar(80),
    draft_at timestamp(3) with time zone
);

create table workflow_version (
    workflow varchar(80) not null references workflow (id),
    number int not null,
    body varchar(1000000) not null,
    published_at timestamp(3) with time zone not null,
    published_by varchar(80) not null,
    primary key (workflow, number)
);

create table workflow_trigger (
    id varchar(80) primary key,
    workflow varchar(80) not null references workflow (id),
    position int not null,
    body varchar(100000) not null
);
create index workflow_trigger_workflow on workflow_trigger (workflow, position);

create sequence ticket_incident start with 1001;
create sequence ticket_change start with 301;
create sequence ticket_request start with 201;

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
    updated_at timestamp(3) with time zone not null,
    seq bigint not null,
    head varchar(64) not null,
    anchored_seq bigint not null,
    fold int not null,
    snapshot varchar(1000000) not null,
    next_due timestamp(3) with time zone,
    alarm_leased_until timestamp(3) with time zone
);
create index ticket_next_due on ticket (next_due);
create index ticket_open on ticket (ended, priority, created_at desc, id);
create index ticket_created on ticket (created_at desc, id);
create index ticket_requester on ticket (requester, created_at);
create index ticket_ci on ticket (ci, created_at);
create index ticket_service on ticket (service, ended, created_at);
create index ticket_team on ticket (team, ended, created_at);

create table entry (
    ticket varchar(80) not null references ticket (id),
    seq bigint not null,
    at timestamp(3) with time zone not null,
    kind varchar(40) not null,
    sealed varchar(1000000) not null,
    hash varchar(64) not null,
    content varchar(1000000),
    salt varchar(64),
    command varchar(120),
    primary key (ticket, seq)
);
-- The last entry of a person's command carries the command's id: a repetition is answered from there.
create index entry_command on entry (ticket, command);

-- Which ticket a command raised, so that its repetition raises no second one.
create table raised (
    command varchar(120) primary key,
    ticket varchar(80) not null,
    at timestamp(3) with time zone not null
);

create table run (
    id varchar(80) primary key,
    ticket varchar(80) not null references ticket (id),
    workflow varchar(80) not null,
    version int not null,
    name varchar(200) not null,
    owner varchar(80) not null,
    trigger_id varchar(80),
    status varchar(20) not null,
    started_at timestamp(3) with time zone not null,
    ended_at timestamp(3) with time zone,
    stalled_since timestamp(3) with time zone,
    result varchar(300)
);
create index run_ticket on run (ticket);
create index run_workflow on run (workflow, started_at);
create index run_trigger on run (trigger_id, started_at);
create index run_status on run (status, owner);

create table work_item (
    visit varchar(80) primary key,
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

-- Who may act on an open item; rows go when the item closes or the person has voted.
create table work_for (
    visit varchar(80) not null references work_item (visit),
    who varchar(82) not null,
    primary key (visit, who)
);
create index work_for_who on work_for (who, visit);

create table outbox (
    id varchar(120) primary key,
    ticket varchar(80) not null references ticket (id),
    visit varchar(80),
    kind varchar(20) not null,
    purpose varchar(20) not null,
    queue varchar(120) not null,
    payload varchar(1000000) not null,
    created_at timestamp(3) with time zone not null,
    due timestamp(3) with time zone not null,
    leased_until timestamp(3) with time zone,
    lease varchar(40),
    tries int not null
);
create index outbox_due on outbox (due);

create table anchor (
    number bigint primary key,
    at timestamp(3) with time zone not null,
    text varchar(1000000) not null,
    hash varchar(64) not null,
    signature varchar(200) not null
);
