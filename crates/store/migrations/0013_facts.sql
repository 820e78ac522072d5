-- A prediction holds facts, not sentences. Sentences of older versions are read into facts when the server
-- starts (crates/store/src/sentences); a prediction with one that could not be read is kept here as it was.
alter table firing add column prediction_before jsonb;
