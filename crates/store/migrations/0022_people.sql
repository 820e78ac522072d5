-- Several people in a shop: what each may do, how they come in, and how they get back in.
alter table person add column role text not null default 'owner'
    check (role in ('owner', 'smith', 'helper', 'reader'));
alter table person alter column role drop default;
-- Who left stands in the record by name, and signs in no more.
alter table person add column left_at timestamptz;
-- The address as it is compared; made by the program, since databases lower letters in their own ways.
alter table person add column email_key text;
update person set email_key = lower(email);
alter table person alter column email_key set not null;
drop index person_email;
create unique index person_email on person (email_key) where left_at is null;

create table invitation (
    id uuid primary key,
    workshop_id uuid not null references workshop (id),
    role text not null check (role in ('owner', 'smith', 'helper', 'reader')),
    -- For whom it is, as the shop calls them.
    name text not null check (length(name) between 1 and 80),
    secret_hash bytea not null unique,
    made_by uuid not null,
    created_at timestamptz not null default now(),
    expires_at timestamptz not null,
    unique (workshop_id, id),
    foreign key (workshop_id, made_by) references person (workshop_id, id) on delete cascade
);

-- What gives a person who cannot sign in a new password, once: a code they keep, or a link from the owner.
create table recovery (
    secret_hash bytea primary key,
    workshop_id uuid not null,
    person_id uuid not null,
    kind text not null check (kind in ('code', 'link')),
    created_at timestamptz not null default now(),
    expires_at timestamptz,
    foreign key (workshop_id, person_id) references person (workshop_id, id) on delete cascade
);
create index recovery_person on recovery (workshop_id, person_id);

alter table session add column id uuid not null default gen_random_uuid();
alter table session add column device text not null default '' check (length(device) <= 80);
alter table session add column last_seen_at timestamptz not null default now();
create unique index session_id on session (id);
create index session_person on session (workshop_id, person_id);

-- Browsers a person has signed in from: strangers who guess passwords cannot keep those out.
create table known_device (
    secret_hash bytea not null,
    workshop_id uuid not null,
    person_id uuid not null,
    created_at timestamptz not null default now(),
    primary key (secret_hash, person_id),
    foreign key (workshop_id, person_id) references person (workshop_id, id) on delete cascade
);

-- Tries are counted by address, by client, by both and by device: whichever the hash is of.
alter table sign_in_failure rename to sign_in_try;
alter table sign_in_try rename column email_hash to bucket;
alter index sign_in_failure_recent rename to sign_in_try_recent;
create index sign_in_try_at on sign_in_try (at);

alter table api_token add column scope text not null default 'plan' check (scope in ('read', 'fire', 'plan'));
alter table api_token alter column scope drop default;
alter table api_token add column expires_at timestamptz;
alter table api_token add column last_used_at timestamptz;

-- Streams end with the session or the token they were opened with.
create function tell_of_ended_session() returns trigger language plpgsql as $$
begin
    perform pg_notify('vatten', json_build_object(
        'workshop', old.workshop_id, 'noun', 'session', 'id', old.id)::text);
    return null;
end $$;
create trigger session_ended after delete on session for each row execute function tell_of_ended_session();
create trigger token_revoked after update on api_token for each row
    when (old.revoked_at is distinct from new.revoked_at) execute function tell('token');
create trigger person_told after insert or update on person for each row execute function tell('person');
