-- What a blade took of its bar, mm: the bar's rest is shorter by it, and longer again when it is put back.
alter table blade add column cut_mm double precision check (cut_mm between 0 and 10000);
