-- What changes is told to every server process, and by them to every open page.
create function tell_of_blade() returns trigger language plpgsql as $$
begin
    perform pg_notify('vatten', json_build_object(
        'workshop', new.workshop_id, 'noun', tg_argv[0], 'id', new.id, 'blade', new.blade_id)::text);
    return null;
end $$;
create trigger firing_told after insert or update on firing
    for each row execute function tell_of_blade('firing');
create trigger reading_told after insert or update on reading
    for each row execute function tell_of_blade('reading');
create trigger finding_told after insert or update on finding
    for each row execute function tell_of_blade('finding');

create function tell() returns trigger language plpgsql as $$
begin
    perform pg_notify('vatten', json_build_object(
        'workshop', new.workshop_id, 'noun', tg_argv[0], 'id', new.id)::text);
    return null;
end $$;
create trigger blade_told after insert or update on blade for each row execute function tell('blade');
create trigger station_told after insert or update on station for each row execute function tell('station');

-- The firings going on are asked for by every open firing view.
create index firing_going_on on firing (workshop_id, id) where closed_at is null;
