-- Temperature logs brought in from files, kept with the file as it was.
create table trace (
    id uuid primary key,
    workshop_id uuid not null,
    blade_id uuid not null,
    firing_id uuid not null,
    station_id uuid,
    name text not null check (length(name) between 1 and 120),
    -- [ms since 1970, °C] by rising time, as the logger showed it.
    samples jsonb not null check (jsonb_typeof(samples) = 'array'),
    -- What was odd in the file.
    notes jsonb not null default '[]' check (jsonb_typeof(notes) = 'array'),
    source text not null check (length(source) <= 4000000),
    withdrawn_at timestamptz,
    created_at timestamptz not null default now(),
    unique (workshop_id, id),
    foreign key (workshop_id, blade_id) references blade (workshop_id, id),
    foreign key (workshop_id, firing_id) references firing (workshop_id, id),
    foreign key (workshop_id, station_id) references station (workshop_id, id)
);
create index trace_of_blade on trace (workshop_id, blade_id, created_at);
create trigger trace_told after insert or update on trace
    for each row execute function tell_of_blade('trace');
