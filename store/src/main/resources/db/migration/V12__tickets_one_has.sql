-- The Desk shows what tickets somebody has.
create index ticket_assignee on ticket (assignee, ended);
