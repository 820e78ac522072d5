-- A firing keeps the blade whole, as it went into the fire: what was not kept of older firings is what is
-- known of the blade now.
update firing f set made = f.made || jsonb_build_object(
    'mark', b.mark, 'name', b.name, 'purpose', b.purpose,
    'target_hrc', jsonb_build_array(b.target_low_hrc, b.target_high_hrc),
    'blade', jsonb_build_object('shape', b.shape, 'length_mm', b.length_mm, 'width_mm', b.width_mm,
        'spine_mm', b.spine_mm, 'edge_mm', b.edge_mm, 'grind', b.grind),
    'steel', case when b.steel_key is not null then jsonb_build_object('of', 'built_in', 'key', b.steel_key)
        else (select jsonb_strip_nulls(jsonb_build_object('of', 'house', 'id', s.id, 'name', s.name,
                  'analysis', s.analysis, 'estimate', s.estimate))
              from steel s where s.workshop_id = b.workshop_id and s.id = b.house_steel_id) end,
    'bar', (select jsonb_strip_nulls(jsonb_build_object('id', r.id, 'name', r.name, 'condition', r.condition,
                'analysis', r.analysis, 'layers', coalesce((
                    select jsonb_agg(jsonb_build_object('role', l.layer -> 'role', 'steel',
                        coalesce((select jsonb_strip_nulls(jsonb_build_object('of', 'house', 'id', s.id,
                                      'name', s.name, 'analysis', s.analysis, 'estimate', s.estimate))
                                  from steel s where s.workshop_id = r.workshop_id
                                      and s.id::text = l.layer ->> 'steel'),
                            jsonb_build_object('of', 'built_in', 'key', l.layer -> 'steel'))) order by l.n)
                    from jsonb_array_elements(r.layers) with ordinality as l (layer, n)
                    where l.layer ->> 'role' <> 'edge'), '[]')))
            from bar r where r.workshop_id = b.workshop_id and r.id = b.bar_id),
    'checks', jsonb_build_object('at_s', floor(extract(epoch from f.started_at))::bigint, 'by_station', coalesce((
        select jsonb_object_agg(s.id, jsonb_build_object(
            'at_s', floor(extract(epoch from c.done_at))::bigint, 'against', c.against, 'points', c.points))
        from station s join lateral (
            -- The last one before it; before a station was ever checked its first check is a better guess
            -- than none.
            select done_at, against, points from calibration
            where workshop_id = s.workshop_id and station_id = s.id and withdrawn_at is null
            order by done_at <= f.started_at desc, case when done_at <= f.started_at then done_at end desc, done_at, id
            limit 1
        ) c on true where s.workshop_id = f.workshop_id), '{}'))
) from blade b where b.workshop_id = f.workshop_id and b.id = f.blade_id;
alter table firing alter column made drop default;
alter table firing add constraint firing_made_whole
    check (made ?& array['mark', 'name', 'purpose', 'target_hrc', 'blade', 'steel', 'checks']);

-- What was done is told from the plan and the events, whenever it is asked for.
alter table firing drop column done;

-- Undo names the event it takes back, not a position; what it took back stays the same.
alter table event disable trigger event_append_only;
update event u set happening = jsonb_build_object('kind', 'undo', 'event', (
    select c.id from event c
    where c.workshop_id = u.workshop_id and c.firing_id = u.firing_id and c.position < u.position
        and c.happening ->> 'kind' = 'confirm' and c.happening -> 'beat' = u.happening -> 'beat'
    order by c.position desc limit 1))
where u.happening ->> 'kind' = 'undo' and u.happening ? 'beat';
alter table event enable trigger event_append_only;
-- The time by the device's own clock, where that was told.
alter table event add column device_at timestamptz;

-- Each confirmed beat with the event that confirmed it: the last one of that beat, since those before it
-- were taken back.
update firing f set state = f.state || jsonb_build_object('confirmed_by', coalesce((
    select jsonb_agg((
        select c.id from event c
        where c.workshop_id = f.workshop_id and c.firing_id = f.id and c.happening ->> 'kind' = 'confirm'
            and (c.happening ->> 'beat')::bigint = m.n - 1
        order by c.position desc limit 1) order by m.n)
    from jsonb_array_elements(f.state -> 'confirmed_ms') with ordinality as m (ms, n)), '[]'));

-- What the engine alone says of a quench as it was done: asked once and kept.
create table simulation (
    workshop_id uuid not null,
    firing_id uuid not null,
    -- Of which engine, and of what was done: another of either is asked anew.
    engine integer not null,
    asked bytea not null,
    found jsonb not null,
    primary key (workshop_id, firing_id),
    foreign key (workshop_id, firing_id) references firing (workshop_id, id)
);

-- What was changed of a blade after it was entered, field by field.
create table blade_edit (
    id uuid primary key,
    workshop_id uuid not null,
    blade_id uuid not null,
    at timestamptz not null default now(),
    -- Who, by the name of the time.
    by_name text,
    -- {field: [before, after]}
    changed jsonb not null check (jsonb_typeof(changed) = 'object'),
    unique (workshop_id, id),
    foreign key (workshop_id, blade_id) references blade (workshop_id, id)
);
create index blade_edit_of_blade on blade_edit (workshop_id, blade_id, at);
create trigger blade_edit_append_only before update or delete on blade_edit
    for each row execute function append_only();

-- A set point is sent once, soon after it was asked for, or not at all.
alter table station_now add column wanted_until timestamptz;
alter table station_now add column dropped_c double precision;
alter table station_now add column dropped_at timestamptz;
update station_now set wanted_c = null;

-- Each value of a connected tester, until somebody takes it or puts it aside.
create table tester_value (
    id uuid primary key,
    workshop_id uuid not null,
    station_id uuid not null,
    at timestamptz not null,
    value_hrc double precision not null check (value_hrc between 0 and 70),
    settled_at timestamptz,
    -- Taken into a set of readings, or put aside.
    taken boolean,
    unique (workshop_id, id),
    foreign key (workshop_id, station_id) references station (workshop_id, id),
    check ((settled_at is null) = (taken is null))
);
create index tester_value_waiting on tester_value (workshop_id, at) where settled_at is null;
create function tell_of_tester_value() returns trigger language plpgsql as $$
begin
    perform pg_notify('vatten', json_build_object(
        'workshop', new.workshop_id, 'noun', 'tester_value', 'id', new.id)::text);
    return null;
end $$;
create trigger tester_value_told after insert or update on tester_value
    for each row execute function tell_of_tester_value();

-- A log without zone is read by the clock of the shop: what names no zone was never a clock.
update workshop set time_zone = 'UTC'
where not exists (select 1 from pg_timezone_names z where lower(z.name) = lower(workshop.time_zone));
