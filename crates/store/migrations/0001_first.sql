-- Everything belongs to a workshop; the workshop stands in every key, so that no row can point across.

create table workshop (
    id uuid primary key,
    name text not null check (length(name) between 1 and 80),
    temperature_unit text not null default 'c' check (temperature_unit in ('c', 'f')),
    length_unit text not null default 'mm' check (length_unit in ('mm', 'in')),
    time_zone text not null default 'UTC' check (length(time_zone) between 1 and 64),
    -- Goes up with everything that learning reads; a fitted model is kept under it.
    records_version bigint not null default 1,
    version bigint not null default 1,
    created_at timestamptz not null default now()
);

create table person (
    id uuid primary key,
    workshop_id uuid not null references workshop (id),
    email text not null check (length(email) between 3 and 254),
    name text not null check (length(name) between 1 and 80),
    password_hash text not null,
    created_at timestamptz not null default now(),
    unique (workshop_id, id)
);
create unique index person_email on person (lower(email));

create table session (
    token_hash bytea primary key,
    workshop_id uuid not null,
    person_id uuid not null,
    created_at timestamptz not null default now(),
    expires_at timestamptz not null,
    foreign key (workshop_id, person_id) references person (workshop_id, id) on delete cascade
);
create index session_expiry on session (expires_at);

create table sign_in_failure (
    email_hash bytea not null,
    at timestamptz not null default now()
);
create index sign_in_failure_recent on sign_in_failure (email_hash, at);

create table api_token (
    id uuid primary key,
    workshop_id uuid not null,
    person_id uuid not null,
    name text not null check (length(name) between 1 and 80),
    token_hash bytea not null unique,
    created_at timestamptz not null default now(),
    revoked_at timestamptz,
    unique (workshop_id, id),
    foreign key (workshop_id, person_id) references person (workshop_id, id) on delete cascade
);

create table station (
    id uuid primary key,
    workshop_id uuid not null references workshop (id),
    kind text not null check (kind in ('forge', 'kiln', 'oven', 'tester')),
    name text not null check (length(name) between 1 and 80),
    version bigint not null default 1,
    created_at timestamptz not null default now(),
    unique (workshop_id, id)
);
create unique index station_name on station (workshop_id, kind, lower(name));

create table steel (
    id uuid primary key,
    workshop_id uuid not null references workshop (id),
    name text not null check (length(name) between 1 and 60),
    analysis jsonb not null,
    version bigint not null default 1,
    created_at timestamptz not null default now(),
    unique (workshop_id, id)
);
create unique index steel_name on steel (workshop_id, lower(name));

create table blade (
    id uuid primary key,
    workshop_id uuid not null references workshop (id),
    mark text not null check (length(mark) between 1 and 20),
    name text not null check (length(name) between 1 and 80),
    -- Either a built-in steel or one of the shop's own.
    steel_key text check (length(steel_key) between 1 and 40),
    house_steel_id uuid,
    shape text not null,
    length_mm double precision not null check (length_mm between 10 and 1000),
    width_mm double precision not null check (width_mm between 3 and 300),
    spine_mm double precision not null check (spine_mm between 0.5 and 25),
    edge_mm double precision not null check (edge_mm between 0.05 and 25),
    grind text not null,
    purpose text not null,
    target_low_hrc double precision not null check (target_low_hrc between 0 and 70),
    target_high_hrc double precision not null check (target_high_hrc between 0 and 70),
    note text not null default '' check (length(note) <= 2000),
    finished_at timestamptz,
    version bigint not null default 1,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now(),
    unique (workshop_id, id),
    foreign key (workshop_id, house_steel_id) references steel (workshop_id, id),
    check ((steel_key is null) <> (house_steel_id is null)),
    check (edge_mm <= spine_mm),
    check (target_low_hrc <= target_high_hrc)
);
create unique index blade_mark on blade (workshop_id, lower(mark));
create index blade_on_rack on blade (workshop_id, id) where finished_at is null;
create index blade_finished on blade (workshop_id, id) where finished_at is not null;

create table plan (
    id uuid primary key,
    workshop_id uuid not null,
    blade_id uuid not null,
    number integer not null check (number >= 1),
    format integer not null,
    steps jsonb not null,
    frozen_at timestamptz,
    version bigint not null default 1,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now(),
    unique (workshop_id, id),
    unique (workshop_id, blade_id, number),
    foreign key (workshop_id, blade_id) references blade (workshop_id, id)
);
create unique index plan_one_draft on plan (workshop_id, blade_id) where frozen_at is null;

create function frozen_plan_stays() returns trigger language plpgsql as $$
begin
    if old.frozen_at is not null then
        raise exception 'a frozen plan never changes';
    end if;
    return new;
end $$;
create trigger plan_frozen before update or delete on plan
    for each row execute function frozen_plan_stays();

create table firing (
    id uuid primary key,
    workshop_id uuid not null,
    blade_id uuid not null,
    plan_id uuid not null,
    -- What was predicted when it started; never changed after.
    prediction jsonb not null,
    -- What the events amount to, kept so that lists need not read them.
    state jsonb not null,
    -- The steps as really done.
    done jsonb not null,
    untempered_since timestamptz,
    started_at timestamptz not null,
    closed_at timestamptz,
    version bigint not null default 1,
    unique (workshop_id, id),
    foreign key (workshop_id, blade_id) references blade (workshop_id, id),
    foreign key (workshop_id, plan_id) references plan (workshop_id, id)
);
create unique index firing_one_open on firing (workshop_id, blade_id) where closed_at is null;
create index firing_of_blade on firing (workshop_id, blade_id, id);

create table event (
    id uuid primary key,
    workshop_id uuid not null,
    firing_id uuid not null,
    position integer not null check (position >= 0),
    happening jsonb not null,
    at timestamptz not null,
    person_id uuid,
    recorded_at timestamptz not null default now(),
    unique (workshop_id, firing_id, position),
    foreign key (workshop_id, firing_id) references firing (workshop_id, id)
);

create function append_only() returns trigger language plpgsql as $$
begin
    raise exception 'what happened is kept as it was';
end $$;
create trigger event_append_only before update or delete on event
    for each row execute function append_only();

create table reading (
    id uuid primary key,
    workshop_id uuid not null,
    blade_id uuid not null,
    firing_id uuid not null,
    stage text not null check (stage in ('as_quenched', 'tempered')),
    values_hrc double precision[] not null
        check (cardinality(values_hrc) between 1 and 20 and 0 <= all (values_hrc) and 70 >= all (values_hrc)),
    tester_id uuid,
    note text not null default '' check (length(note) <= 500),
    taken_at timestamptz not null,
    withdrawn_at timestamptz,
    unique (workshop_id, id),
    foreign key (workshop_id, blade_id) references blade (workshop_id, id),
    foreign key (workshop_id, firing_id) references firing (workshop_id, id),
    foreign key (workshop_id, tester_id) references station (workshop_id, id)
);
create index reading_of_blade on reading (workshop_id, blade_id, taken_at);
create index reading_in_time on reading (workshop_id, taken_at, id) where withdrawn_at is null;
