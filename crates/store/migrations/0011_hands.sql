-- The newest firings of a shop, for who quenched them.
create index firing_in_time on firing (workshop_id, started_at);
