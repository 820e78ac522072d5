-- A house method: a plan kept by name, with every version it had.
create table method (
    id uuid primary key,
    workshop_id uuid not null references workshop (id),
    name text not null check (length(name) between 1 and 80),
    note text not null default '' check (length(note) <= 500),
    format integer not null,
    steps jsonb not null check (jsonb_typeof(steps) = 'array'),
    retired_at timestamptz,
    version bigint not null default 1,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now(),
    unique (workshop_id, id)
);
create unique index method_name on method (workshop_id, lower(name)) where retired_at is null;

create table method_version (
    workshop_id uuid not null,
    method_id uuid not null,
    version bigint not null,
    name text not null,
    note text not null,
    format integer not null,
    steps jsonb not null,
    saved_at timestamptz not null default now(),
    primary key (workshop_id, method_id, version),
    foreign key (workshop_id, method_id) references method (workshop_id, id)
);
create trigger method_version_append_only before update or delete on method_version
    for each row execute function append_only();
