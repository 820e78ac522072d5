-- A blade made ready: outline, thickness along it, bevels, protection, order of work, checks.
alter table blade add column ready jsonb not null default '{}' check (jsonb_typeof(ready) = 'object');

-- Its clay, with the line that is wanted: apart, since it is large and changes on its own.
create table clay (
    workshop_id uuid not null,
    blade_id uuid not null,
    clay jsonb not null,
    wanted jsonb not null default '[]',
    version bigint not null default 1,
    updated_at timestamptz not null default now(),
    primary key (workshop_id, blade_id),
    foreign key (workshop_id, blade_id) references blade (workshop_id, id)
);

-- The blade as it went into the fire. Older firings were of plain blades.
alter table firing add column made jsonb not null default '{}' check (jsonb_typeof(made) = 'object');
