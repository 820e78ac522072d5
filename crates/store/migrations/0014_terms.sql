-- What is kept goes by the terms of the field: an action is confirmed, an operator quenches.
alter table event rename column happening to what;
alter table event disable trigger event_append_only;
update event set what = (what - 'beat') || jsonb_build_object('action', what -> 'beat') where what ? 'beat';
update event set what = jsonb_set(what, '{kind}', '"operator"') where what ->> 'kind' = 'hand';
alter table event enable trigger event_append_only;

-- Quotes inside of a text are escaped, so these match nothing but keys and codes.
update firing set state = replace(replace(state::text, '"kind": "hand"', '"kind": "operator"'), '"hand": ', '"operator": ')::jsonb
where state::text like '%"hand"%';
update firing set prediction = replace(replace(prediction::text, '"code": "hand_results"', '"code": "operator_results"'),
    '"hand": ', '"operator": ')::jsonb
where prediction::text like '%"hand_results"%';

-- Counted anew when they are next asked for.
delete from lessons;
