-- A shop of a hundred thousand blades and a million sets of readings, from the demo's finished blades: each is
-- there some thousands of times, spread over twenty years, with readings that scatter.

-- Neither triggers (a notification for each row) nor foreign keys, which hold by construction.
set session_replication_role = replica;

create temporary table model as
    select b.workshop_id, b.id as blade_id, p.id as plan_id, f.id as firing_id,
        row_number() over (order by b.id) as place, count(*) over () as "of"
    from blade b
    join firing f on f.workshop_id = b.workshop_id and f.blade_id = b.id
    join plan p on p.workshop_id = f.workshop_id and p.id = f.plan_id
    where b.finished_at is not null;

-- Ids in the order of time, as the application makes them.
create function pg_temp.id_at(at timestamptz, salt text) returns uuid language sql as $$
    select (lpad(to_hex((extract(epoch from at) * 1000)::bigint), 12, '0') || '7'
        || substr(md5(salt), 1, 3) || '8' || substr(md5(salt), 4, 15))::uuid
$$;

create temporary table copy as
    select m.*, (k - 1) * m."of" + m.place as number, at,
        pg_temp.id_at(at, 'blade' || k || '.' || m.place) as new_blade,
        pg_temp.id_at(at, 'plan' || k || '.' || m.place) as new_plan,
        pg_temp.id_at(at, 'firing' || k || '.' || m.place) as new_firing
    from model m
    cross join lateral generate_series(1, (100000 + m."of" - 1) / m."of") as k
    cross join lateral (select now() - interval '1 day'
        - (100000 - ((k - 1) * m."of" + m.place)) * interval '105 minutes' as at) as t;

analyze copy;

insert into blade (id, workshop_id, mark, name, steel_key, house_steel_id, shape, length_mm, width_mm, spine_mm, edge_mm,
        grind, purpose, target_low_hrc, target_high_hrc, note, finished_at, version, created_at, updated_at, ready, bar_id)
    select c.new_blade, b.workshop_id, 'S-' || c.number, b.name, b.steel_key, b.house_steel_id, b.shape, b.length_mm,
        b.width_mm, b.spine_mm, b.edge_mm, b.grind, b.purpose, b.target_low_hrc, b.target_high_hrc, b.note, c.at, 1, c.at,
        c.at, b.ready, b.bar_id
    from copy c join blade b on b.workshop_id = c.workshop_id and b.id = c.blade_id;

insert into plan (id, workshop_id, blade_id, number, format, steps, frozen_at, version, created_at, updated_at)
    select c.new_plan, p.workshop_id, c.new_blade, 1, p.format, p.steps, c.at, 1, c.at, c.at
    from copy c join plan p on p.id = c.plan_id;

insert into firing (id, workshop_id, blade_id, plan_id, prediction, state, untempered_since, started_at, closed_at,
        version, made)
    select c.new_firing, f.workshop_id, c.new_blade, c.new_plan, f.prediction, f.state, null, c.at, c.at, 1, f.made
    from copy c join firing f on f.id = c.firing_id;

insert into event (id, workshop_id, firing_id, position, happening, at)
    select gen_random_uuid(), e.workshop_id, c.new_firing, e.position, e.happening, c.at
    from copy c join event e on e.workshop_id = c.workshop_id and e.firing_id = c.firing_id where e.position < 8;

-- Ten sets of readings each, half of them before tempering.
insert into reading (id, workshop_id, blade_id, firing_id, stage, values_hrc, tester_id, note, taken_at, taken)
    select pg_temp.id_at(c.at, 'reading' || c.number || '.' || n), r.workshop_id, c.new_blade, c.new_firing, r.stage,
        array[least(70, r.values_hrc[1] + round((random() - 0.5)::numeric, 1)),
            least(70, r.values_hrc[1] + round((random() - 0.5)::numeric, 1)), r.values_hrc[1]],
        r.tester_id, r.note, c.at + n * interval '1 minute', r.taken
    from copy c
    cross join generate_series(1, 10) as n
    join lateral (
        select * from reading r
        where r.workshop_id = c.workshop_id and r.blade_id = c.blade_id and r.firing_id = c.firing_id
        order by ((r.stage = 'tempered') = (n > 5)) desc, r.id limit 1
    ) r on true;

insert into finding (id, workshop_id, blade_id, firing_id, found, note, found_at)
    select pg_temp.id_at(c.at, 'finding' || c.number || x.id), x.workshop_id, c.new_blade, c.new_firing, x.found, x.note, c.at
    from copy c join finding x on x.workshop_id = c.workshop_id and x.blade_id = c.blade_id;

update workshop set records_version = records_version + 1 where id = (select workshop_id from model limit 1);
reset session_replication_role;
analyze;
