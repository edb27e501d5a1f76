-- Under which ticket a fault is set aside that is explained there for now (I21, I22): planned work, or what it depends on.
alter table matter add column aside varchar(80);
create index matter_aside on matter (aside);
