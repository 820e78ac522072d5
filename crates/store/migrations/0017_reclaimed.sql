-- Steel without a paper is known by what it was, long before it is known by analysis.
alter table trial
    add column was text not null default 'unknown_bar' check (was in ('file', 'leaf_spring', 'coil_spring',
        'bearing_ring', 'saw_plate', 'plane_iron', 'axle', 'rail', 'unknown_bar')),
    -- Percent by weight of what was measured of it, by symbol.
    add column measured jsonb not null default '{}' check (jsonb_typeof(measured) = 'object'),
    -- Thickness of its coupons, mm.
    add column thickness_mm double precision not null default 5 check (thickness_mm between 1 and 20);
-- The trial that a steel came of, found from the steel.
create index trial_steel on trial (workshop_id, steel_id) where steel_id is not null;
