-- An item may be a proposal of a trigger: its id is the ticket's and the trigger's.
alter table work_item alter column visit varchar(170);
alter table work_for alter column visit varchar(170);
