-- All the stations of a shop, how they are reached, and how they were checked.
alter table station drop constraint station_kind_check;
alter table station add constraint station_kind_check check (kind in ('forge', 'kiln', 'oven', 'tank',
    'plates', 'cold_box', 'torch', 'tester', 'files', 'magnet', 'logger'));
-- Of a tank: what is in it and how much.
alter table station add column medium text check (length(medium) between 1 and 40);
alter table station add column litres double precision check (litres between 0.5 and 2000);
alter table station add column note text not null default '' check (length(note) <= 500);
-- A typed value, see vatten_core::device.
alter table station add column device jsonb;
alter table station add column retired_at timestamptz;
drop index station_name;
create unique index station_name on station (workshop_id, kind, lower(name)) where retired_at is null;

create table calibration (
    id uuid primary key,
    workshop_id uuid not null,
    station_id uuid not null,
    against text not null check (against in ('thermometer', 'ice_and_boiling_water', 'blocks')),
    -- [shown, really] by rising shown.
    points jsonb not null check (jsonb_typeof(points) = 'array'),
    note text not null default '' check (length(note) <= 500),
    done_at timestamptz not null,
    withdrawn_at timestamptz,
    unique (workshop_id, id),
    foreign key (workshop_id, station_id) references station (workshop_id, id)
);
create function tell_of_check() returns trigger language plpgsql as $$
begin
    perform pg_notify('vatten', json_build_object(
        'workshop', new.workshop_id, 'noun', 'calibration', 'id', new.id)::text);
    return null;
end $$;
create trigger calibration_told after insert or update on calibration
    for each row execute function tell_of_check();
create index calibration_of_station on calibration (workshop_id, station_id, done_at);

-- What a connected device said, every few seconds: °C, or HRC of a tester.
create table sample (
    workshop_id uuid not null,
    station_id uuid not null,
    at timestamptz not null,
    value double precision not null,
    set_value double precision,
    primary key (workshop_id, station_id, at),
    foreign key (workshop_id, station_id) references station (workshop_id, id)
);

-- The newest of that, and which server process listens to the device.
create table station_now (
    workshop_id uuid not null,
    station_id uuid not null,
    at timestamptz,
    value double precision,
    set_value double precision,
    -- What is wrong with the device, in a sentence; null while it answers.
    trouble text,
    -- A set point to be sent.
    wanted_c double precision,
    held_by uuid,
    held_until timestamptz,
    primary key (workshop_id, station_id),
    foreign key (workshop_id, station_id) references station (workshop_id, id)
);
create function tell_of_station() returns trigger language plpgsql as $$
begin
    if tg_op = 'INSERT' or (new.at, new.value, new.set_value, new.trouble)
        is distinct from (old.at, old.value, old.set_value, old.trouble) then
        perform pg_notify('vatten', json_build_object(
            'workshop', new.workshop_id, 'noun', 'station_now', 'id', new.station_id)::text);
    end if;
    return null;
end $$;
create trigger station_now_told after insert or update on station_now
    for each row execute function tell_of_station();
