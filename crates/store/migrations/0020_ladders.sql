-- Ladders on steel that is known: coupons alike but for the heat they are quenched from, or for their temper.
create table ladder (
    id uuid primary key,
    workshop_id uuid not null references workshop (id),
    name text not null check (length(name) between 1 and 60),
    -- Key of the table, or id of a steel of the shop.
    steel text not null check (length(steel) between 1 and 60),
    along text not null check (along in ('heats', 'tempers')),
    -- Typed values, see vatten_core::record::ladder.
    treatment jsonb not null check (jsonb_typeof(treatment) = 'object'),
    rungs jsonb not null check (jsonb_typeof(rungs) = 'array'),
    version bigint not null default 1,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now(),
    unique (workshop_id, id)
);
create trigger ladder_told after insert or update on ladder for each row execute function tell('ladder');
