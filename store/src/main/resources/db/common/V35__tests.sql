-- Tickets that only try how something goes (I4): few, and left out of every list.
alter table ticket add column is_test boolean default false not null;
create index ticket_tests on ticket (is_test);
