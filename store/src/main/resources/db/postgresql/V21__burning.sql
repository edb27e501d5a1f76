-- The order of a list in which what burns first stands first walks an index; what has no clock comes last.
alter table ticket add column burns_at timestamp(3) with time zone
    generated always as (coalesce(target_due, timestamp with time zone '9999-12-31 00:00:00+00')) stored;
create index ticket_burning on ticket (ended, burns_at, priority, created_at desc, id);
