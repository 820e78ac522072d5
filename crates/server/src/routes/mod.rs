//! Thin routes, one file per noun.

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
pub mod ladder;
pub mod lessons;
pub mod live;
pub mod method;
pub mod outline;
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

/// Hands every route of the API, listed here once, to a macro.
macro_rules! every_route {
    ($with:ident) => {
        $with! {
            account::sign_up,
            account::sign_in,
            account::who,
            account::sign_out,
            bar::list,
            bar::create,
            bar::update,
            bar::meeting,
            batch::list,
            batch::alike,
            batch::give_plan,
            blade::rack,
            blade::finished,
            blade::marked,
            blade::create,
            blade::get,
            blade::update,
            blade::edits,
            compare::get,
            calibration::list,
            calibration::create,
            calibration::withdraw,
            clay::get,
            clay::save,
            clay::sheet,
            day::get,
            day::add,
            day::change,
            day::remove,
            day::pin,
            day::anew,
            day::if_so,
            day::cures,
            day::hours,
            day::set_hours,
            day::calendar,
            day::put_up_calendar,
            day::revoke_calendar,
            diagnosis::get,
            exchange::export,
            exchange::import,
            bath::warm,
            eye::list,
            eye::temper_colours,
            finding::list,
            finding::create,
            finding::withdraw,
            firing::start,
            firing::open,
            firing::of_blade,
            firing::get,
            firing::operators,
            firing::events,
            firing::look_ahead,
            firing::happen,
            lessons::get,
            live::now,
            live::live,
            method::for_blade,
            method::list,
            method::create,
            method::update,
            method::versions,
            method::retire,
            method::what_helps,
            photo::list,
            photo::create,
            photo::picture,
            photo::trace_line,
            photo::withdraw,
            plan::get,
            plan::save,
            plan::usual,
            predict::predict,
            predict::simulate,
            predict::simulate_place,
            advise::clay,
            advise::water,
            predict::health,
            outline::preset,
            outline::file,
            reading::list,
            reading::create,
            reading::set_aside,
            reading::withdraw,
            station::list,
            station::create,
            station::update,
            station::set_curve,
            station::forget_curve,
            station::now,
            station::set_point,
            station::call_back,
            station::waiting,
            station::put_aside,
            station::loaded,
            steel::list,
            steel::search,
            steel::get,
            steel::create,
            steel::update,
            steel::points,
            token::list,
            token::create,
            token::revoke,
            trace::list,
            trace::preview,
            trace::create,
            trace::source,
            trace::withdraw,
            ladder::list,
            ladder::get,
            ladder::create,
            ladder::save,
            ladder::remove,
            trial::list,
            trial::get,
            trial::create,
            trial::save,
            trial::become_steel,
            workshop::get,
            workshop::update,
        }
    };
}
#[cfg(feature = "schema")]
pub(crate) use every_route;

macro_rules! mounted {
    ($($noun:ident::$route:ident,)*) => { rocket::routes![$($noun::$route),*] };
}

/// Everything under `/api/v1`.
pub fn all() -> Vec<rocket::Route> {
    every_route!(mounted)
}
