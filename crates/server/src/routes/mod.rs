//! Thin routes, one file per noun.

use vatten_store::role::Role;

pub mod account;
pub mod advise;
pub mod bar;
pub mod batch;
pub mod bath;
pub mod blade;
pub mod calendar;
pub mod calibration;
pub mod clay;
pub mod compare;
pub mod day;
pub mod diagnosis;
pub mod exchange;
pub mod eye;
pub mod finding;
pub mod firing;
pub mod invitation;
pub mod ladder;
pub mod lessons;
pub mod live;
pub mod method;
pub mod outline;
pub mod password;
pub mod people;
pub mod photo;
pub mod plan;
pub mod predict;
pub mod reading;
pub mod station;
pub mod steel;
pub mod token;
pub mod trace;
pub mod trial;
pub mod workshop;

/// Hands every route of the API, listed here once with what whoever asks must be allowed, to a macro.
macro_rules! every_route {
    ($with:ident) => {
        $with! {
            account::sign_up => Nothing,
            account::sign_in => Nothing,
            account::who => Read,
            account::sign_out => Read,
            account::sessions => Oneself,
            account::end_session => Oneself,
            bar::list => Read,
            bar::create => Plan,
            bar::update => Plan,
            bar::meeting => Read,
            batch::list => Read,
            batch::alike => Plan,
            batch::give_plan => Plan,
            blade::rack => Read,
            blade::finished => Read,
            blade::marked => Read,
            blade::create => Plan,
            blade::get => Read,
            blade::update => Plan,
            blade::edits => Read,
            compare::get => Read,
            calibration::list => Read,
            calibration::create => Fire,
            calibration::withdraw => Fire,
            clay::get => Read,
            clay::save => Plan,
            clay::sheet => Read,
            day::get => Read,
            day::add => Plan,
            day::change => Plan,
            day::remove => Plan,
            day::pin => Plan,
            day::anew => Plan,
            day::if_so => Read,
            day::cures => Read,
            day::hours => Read,
            day::set_hours => Plan,
            day::calendar => Read,
            day::put_up_calendar => Plan,
            day::revoke_calendar => Plan,
            diagnosis::get => Read,
            exchange::export => Read,
            exchange::import => Own,
            bath::warm => Read,
            eye::list => Read,
            eye::temper_colours => Read,
            finding::list => Read,
            finding::create => Fire,
            finding::withdraw => Fire,
            firing::start => Fire,
            firing::open => Read,
            firing::of_blade => Read,
            firing::get => Read,
            firing::operators => Read,
            firing::events => Read,
            firing::look_ahead => Read,
            firing::happen => Fire,
            lessons::get => Read,
            live::now => Nothing,
            live::live => Read,
            method::for_blade => Read,
            method::list => Read,
            method::create => Plan,
            method::update => Plan,
            method::versions => Read,
            method::retire => Plan,
            method::what_helps => Read,
            photo::list => Read,
            photo::create => Fire,
            photo::picture => Read,
            photo::trace_line => Fire,
            photo::withdraw => Fire,
            plan::get => Read,
            plan::save => Plan,
            plan::usual => Read,
            predict::predict => Read,
            predict::simulate => Read,
            predict::simulate_place => Read,
            advise::clay => Read,
            advise::water => Read,
            predict::health => Nothing,
            outline::preset => Read,
            outline::file => Read,
            reading::list => Read,
            reading::create => Fire,
            reading::set_aside => Fire,
            reading::withdraw => Fire,
            station::list => Read,
            station::create => Plan,
            station::update => Plan,
            station::set_curve => Plan,
            station::forget_curve => Plan,
            station::now => Read,
            station::set_point => Fire,
            station::call_back => Fire,
            station::waiting => Read,
            station::put_aside => Fire,
            station::loaded => Read,
            steel::list => Read,
            steel::search => Read,
            steel::get => Read,
            steel::create => Plan,
            steel::update => Plan,
            steel::points => Read,
            token::list => Plan,
            token::create => Plan,
            token::revoke => Plan,
            trace::list => Read,
            trace::preview => Read,
            trace::create => Fire,
            trace::source => Read,
            trace::withdraw => Fire,
            invitation::list => Own,
            invitation::create => Own,
            invitation::revoke => Own,
            invitation::look => Nothing,
            invitation::accept => Nothing,
            password::change => Oneself,
            password::codes => Oneself,
            password::set_codes => Oneself,
            password::by_code => Nothing,
            password::by_link => Nothing,
            people::list => Read,
            people::change => Own,
            people::leave => Own,
            people::link => Own,
            ladder::list => Read,
            ladder::get => Read,
            ladder::create => Plan,
            ladder::save => Fire,
            ladder::remove => Plan,
            trial::list => Read,
            trial::get => Read,
            trial::create => Plan,
            trial::save => Fire,
            trial::become_steel => Plan,
            workshop::get => Read,
            workshop::update => Own,
        }
    };
}
#[cfg(feature = "schema")]
pub(crate) use every_route;

/// What whoever asks must be allowed; what each role is allowed is said here too.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Need {
    /// Nobody has to be signed in.
    Nothing,
    /// To look: everybody of the shop.
    Read,
    /// To fire and to read what came out: helpers.
    Fire,
    /// To plan: smiths.
    Plan,
    /// To say who works in the shop and what it is: owners.
    Own,
    /// It is about whoever signed in, whatever they may do: no token speaks for them.
    Oneself,
}

impl Need {
    /// The least role that is allowed it.
    #[must_use]
    pub fn role(self) -> Role {
        match self {
            Self::Nothing | Self::Read | Self::Oneself => Role::Reader,
            Self::Fire => Role::Helper,
            Self::Plan => Role::Smith,
            Self::Own => Role::Owner,
        }
    }

    /// What a route needs. A route that is not in the table is the owner's.
    #[must_use]
    pub fn of(route: &rocket::Route) -> Self {
        let name = route.name.as_deref().unwrap_or_default();
        TABLE
            .iter()
            .find(|(known, _)| *known == name)
            .map_or(Self::Own, |(_, need)| *need)
    }
}

macro_rules! table {
    ($($noun:ident::$route:ident => $need:ident,)*) => {
        &[$((concat!(stringify!($noun), "::", stringify!($route)), Need::$need)),*]
    };
}

/// Every route by name, with what it needs.
pub const TABLE: &[(&str, Need)] = every_route!(table);

fn named(mut route: rocket::Route, name: &'static str) -> rocket::Route {
    route.name = Some(name.into());
    route
}

macro_rules! mounted {
    ($($noun:ident::$route:ident => $need:ident,)*) => {{
        let mut all = Vec::new();
        $(
            let name = concat!(stringify!($noun), "::", stringify!($route));
            all.extend(rocket::routes![$noun::$route].into_iter().map(|route| named(route, name)));
        )*
        all
    }};
}

/// Everything under `/api/v1`.
pub fn all() -> Vec<rocket::Route> {
    every_route!(mounted)
}
