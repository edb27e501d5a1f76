-- Ends say more than whether they stop the run.
update workflow_version set body = replace(replace(body, '"stopsRun":true', '"ending":"run"'), '"stopsRun":false', '"ending":"line"');
update workflow set draft = replace(replace(draft, '"stopsRun":true', '"ending":"run"'), '"stopsRun":false', '"ending":"line"')
    where draft is not null;

-- Visits that wait for a signal from outside, and signals that came when nobody waited.
create table signal_wait (
    visit varchar(80) primary key,
    ticket varchar(80) not null references ticket (id),
    signal varchar(200) not null,
    signal_key varchar(200),
    since timestamp(3) with time zone not null
);
create index signal_wait_signal on signal_wait (signal, since);

create table signal_kept (
    id varchar(120) primary key,
    signal varchar(200) not null,
    signal_key varchar(200),
    body varchar(100000) not null,
    came_at timestamp(3) with time zone not null
);
create index signal_kept_signal on signal_kept (signal, came_at);
