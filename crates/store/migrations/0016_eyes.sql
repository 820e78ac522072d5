-- The eye of an operator is a station too: what it calls colours is held against a thermocouple at the fire.
alter table station drop constraint station_kind_check;
alter table station add constraint station_kind_check check (kind in ('forge', 'kiln', 'oven', 'tank',
    'plates', 'cold_box', 'torch', 'tester', 'files', 'magnet', 'logger', 'eye'));
-- What is asked at the fire, and what came up since.
alter table finding drop constraint finding_found_check;
alter table finding add constraint finding_found_check check (found ->> 'kind' in ('line', 'straight', 'side', 'sori',
    'clamped', 'crack', 'file', 'punch', 'grain', 'polish', 'etch', 'trial', 'burn', 'scrap', 'twist', 'heard',
    'temper_colour', 'skin_off', 'as_received'));
-- What was seen beside a thermocouple, found without reading every event.
create index event_look on event (workshop_id) where what -> 'by' ->> 'eye_id' is not null and what ? 'temperature_c';
