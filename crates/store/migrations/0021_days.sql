-- Of a station: how many blades it takes, how far they go in, whether it may run alone, how fast it heats and cools.
-- Typed, see vatten_core::process::capacity::Capacity.
alter table station add column capacity jsonb not null default '{}' check (jsonb_typeof(capacity) = 'object');

-- Who is in the shop when, and what counts on its days. Typed, see vatten_core::planning::shop::ShopHours.
create table day_hours (
    workshop_id uuid primary key references workshop (id),
    hours jsonb not null check (jsonb_typeof(hours) = 'object'),
    version bigint not null default 1
);

-- Blades that are to be fired on the days to come: a blade is on one day only.
create table day_blade (
    workshop_id uuid not null,
    blade_id uuid not null,
    -- Not before this, and wanted by that.
    not_before timestamptz not null,
    due_at timestamptz,
    added_at timestamptz not null default now(),
    primary key (workshop_id, blade_id),
    foreign key (workshop_id, blade_id) references blade (workshop_id, id)
);

-- Starts that were pinned by hand.
create table day_pin (
    workshop_id uuid not null,
    blade_id uuid not null,
    activity integer not null check (activity between 0 and 400),
    start_at timestamptz not null,
    primary key (workshop_id, blade_id, activity),
    foreign key (workshop_id, blade_id) references day_blade (workshop_id, blade_id) on delete cascade
);

-- The day as it was laid last, that people go by. Typed, see vatten_core::planning::kept::KeptDay.
create table day (
    workshop_id uuid primary key references workshop (id),
    kept jsonb not null check (jsonb_typeof(kept) = 'object'),
    version bigint not null default 1,
    laid_at timestamptz not null default now()
);
create function tell_of_day() returns trigger language plpgsql as $$
begin
    perform pg_notify('vatten', json_build_object(
        'workshop', new.workshop_id, 'noun', 'day', 'id', new.workshop_id)::text);
    return null;
end $$;
create trigger day_told after insert or update on day for each row execute function tell_of_day();

-- How long things really took beside how long the engine gives them: durations are learned from it.
create table day_length (
    workshop_id uuid not null,
    firing_id uuid not null,
    activity integer not null,
    kind text not null check (length(kind) between 1 and 40),
    -- Id of the station, or the name of what is none.
    station text check (length(station) <= 40),
    operator text check (length(operator) <= 40),
    -- By the engine or the hand's usual measure, and really, s.
    usual_s integer not null check (usual_s between 1 and 1000000),
    took_s integer not null check (took_s between 0 and 1000000),
    -- What the day said it would take, s.
    planned_s integer not null check (planned_s between 0 and 1000000),
    ended_at timestamptz not null,
    primary key (workshop_id, firing_id, activity),
    foreign key (workshop_id, firing_id) references firing (workshop_id, id)
);

-- A calendar that other programs read: only a hash of its secret is kept.
create table day_calendar (
    workshop_id uuid primary key references workshop (id),
    secret_hash bytea not null unique,
    created_at timestamptz not null default now()
);

-- Blades of one order: planned once, fired together, read apart.
create table batch_blade (
    workshop_id uuid not null,
    blade_id uuid not null,
    batch_id uuid not null,
    primary key (workshop_id, blade_id),
    foreign key (workshop_id, blade_id) references blade (workshop_id, id)
);
create index batch_blade_of on batch_blade (workshop_id, batch_id);
