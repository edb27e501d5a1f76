-- The incident under which another stands folded, as a consequence of it (I22).
alter table ticket add column folded varchar(80);
create index ticket_folded on ticket (folded);
