-- What came of a blade besides tested hardness: hamon, bend, cracks, files.
create table finding (
    id uuid primary key,
    workshop_id uuid not null,
    blade_id uuid not null,
    firing_id uuid not null,
    -- A typed value, see vatten_core::finding.
    found jsonb not null check (found ->> 'kind' in ('line', 'side', 'crack', 'file')),
    note text not null default '' check (length(note) <= 500),
    found_at timestamptz not null,
    withdrawn_at timestamptz,
    unique (workshop_id, id),
    foreign key (workshop_id, blade_id) references blade (workshop_id, id),
    foreign key (workshop_id, firing_id) references firing (workshop_id, id)
);
create index finding_of_blade on finding (workshop_id, blade_id, found_at);
create index finding_in_time on finding (workshop_id, found_at, id) where withdrawn_at is null;
