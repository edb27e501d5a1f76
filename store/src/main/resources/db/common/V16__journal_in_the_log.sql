-- The journal is a record of its own in the log: each line follows the one before by its hash, and names the hash of what was set.
-- Lines of before stay as they are, outside the chain.
alter table journal add column seq bigint;
alter table journal add column set_hash varchar(64);
alter table journal add column hash varchar(64);
create index journal_seq on journal (seq);
create index journal_subject on journal (subject, subject_id, seq);

create table journal_head (
    id int primary key,
    seq bigint not null,
    head varchar(64) not null
);
insert into journal_head (id, seq, head)
    values (1, 0, '0000000000000000000000000000000000000000000000000000000000000000');
