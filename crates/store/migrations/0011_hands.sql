-- The newest firings of a shop, for who quenched them.
create index firing_in_time on firing (workshop_id, started_at);
-- Blades whose mark begins with what was typed.
create index blade_mark_begins on blade (workshop_id, lower(mark) text_pattern_ops);
