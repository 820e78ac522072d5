-- Coupon trials of unknown steel, and what they found out.
create table trial (
    id uuid primary key,
    workshop_id uuid not null references workshop (id),
    name text not null check (length(name) between 1 and 60),
    -- Typed values, see vatten_core::trial.
    entries jsonb not null default '[]' check (jsonb_typeof(entries) = 'array'),
    steel_id uuid,
    version bigint not null default 1,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now(),
    unique (workshop_id, id),
    foreign key (workshop_id, steel_id) references steel (workshop_id, id)
);

-- What a steel made by a trial is known by, besides the analysis it behaves as if it had.
alter table steel add column estimate jsonb;
