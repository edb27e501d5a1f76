-- All that a long call said is a file of up to 50 million characters (M7), most of them of one byte.
alter table file_bytes alter column bytes set data type varbinary(210000000);
