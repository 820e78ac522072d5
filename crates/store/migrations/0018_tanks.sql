-- A tank as it is: when what is in it was put in, and what it does where that was measured.
alter table station
    add column filled_at timestamptz,
    -- Typed, see vatten_core::record::cooling_curve::MeasuredBath.
    add column curve jsonb;
