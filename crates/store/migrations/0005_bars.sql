-- Bars in stock; blades are made from them.
create table bar (
    id uuid primary key,
    workshop_id uuid not null references workshop (id),
    name text not null check (length(name) between 1 and 60),
    -- The steel, or that of the edge when there are several.
    steel_key text check (length(steel_key) between 1 and 40),
    house_steel_id uuid,
    -- Role and steel of every kind of layer, the edge among them; empty for a bar of one steel.
    layers jsonb not null default '[]' check (jsonb_typeof(layers) = 'array'),
    width_mm double precision not null check (width_mm between 3 and 500),
    thickness_mm double precision not null check (thickness_mm between 0.5 and 60),
    length_mm double precision not null check (length_mm between 10 and 10000),
    left_mm double precision not null check (left_mm >= 0),
    condition text not null default 'unknown',
    -- The mill's own analysis of this bar.
    analysis jsonb,
    note text not null default '' check (length(note) <= 500),
    version bigint not null default 1,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now(),
    unique (workshop_id, id),
    foreign key (workshop_id, house_steel_id) references steel (workshop_id, id),
    check ((steel_key is null) <> (house_steel_id is null)),
    check (left_mm <= length_mm)
);
create unique index bar_name on bar (workshop_id, lower(name));

alter table blade add column bar_id uuid;
alter table blade add foreign key (workshop_id, bar_id) references bar (workshop_id, id);
create index blade_of_bar on blade (workshop_id, bar_id) where bar_id is not null;
