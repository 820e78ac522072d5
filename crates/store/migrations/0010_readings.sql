-- Where each value was taken and in what state the blade was, and values set aside: see
-- vatten_core::reading::Taken.
alter table reading add column taken jsonb not null default '{"places": []}'
    check (jsonb_typeof(taken -> 'places') = 'array');
alter table reading add column version bigint not null default 1;

alter table finding drop constraint finding_found_check;
alter table finding add constraint finding_found_check check (found ->> 'kind' in ('line', 'straight', 'side',
    'crack', 'file', 'punch', 'grain', 'polish', 'etch', 'trial', 'burn', 'scrap'));

-- Photographs, made anew from what was sent: nothing of the file but the picture is kept.
create table photo (
    id uuid primary key,
    workshop_id uuid not null,
    blade_id uuid not null,
    firing_id uuid,
    jpeg bytea not null check (length(jpeg) between 100 and 4000000),
    width integer not null check (width between 8 and 20000),
    height integer not null check (height between 8 and 20000),
    -- Two points known in the picture and on the blade, see vatten_core::picture.
    scale jsonb,
    taken_at timestamptz not null,
    withdrawn_at timestamptz,
    unique (workshop_id, id),
    foreign key (workshop_id, blade_id) references blade (workshop_id, id),
    foreign key (workshop_id, firing_id) references firing (workshop_id, id)
);
create index photo_of_blade on photo (workshop_id, blade_id, taken_at);
create function tell_of_photo() returns trigger language plpgsql as $$
begin
    perform pg_notify('vatten', json_build_object(
        'workshop', new.workshop_id, 'noun', 'photo', 'id', new.id, 'blade', new.blade_id)::text);
    return null;
end $$;
create trigger photo_told after insert or update on photo
    for each row execute function tell_of_photo();
