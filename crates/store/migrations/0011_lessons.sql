-- The newest firings of a shop, for who quenched them.
create index firing_in_time on firing (workshop_id, started_at);
-- Blades whose mark begins with what was typed.
create index blade_mark_begins on blade (workshop_id, lower(mark) text_pattern_ops);

-- What the records said when they were last counted, as it was answered: shown while they are counted anew.
create table lessons (
    workshop_id uuid primary key references workshop (id),
    -- Of the software that counted: another one counts anew.
    format integer not null,
    records_version bigint not null,
    records bigint not null check (records >= 0),
    answer text not null
);
