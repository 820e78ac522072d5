//! How warm a bath gets from a hot bar, and how thick its oil is.

use crate::auth::SignedIn;
use crate::body::Body;
use crate::problem::Problem;
use rocket::post;
use rocket::serde::json::Json;
use serde::{Deserialize, Serialize};
use vatten_core::material::medium::Medium;
use vatten_core::material::oil::{convection, viscosity_mm2_s};
use vatten_core::process::bath_warming::{BathWarmth, warmed};
use vatten_core::quantity::units::{Celsius, Kilograms, Litres, Quantity};
use vatten_core::quantity::validation::{Checker, Faults, Unit, ids};

/// A bath, and the bar that is held in it.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct BathBody {
    /// Medium, for example `medium_oil`.
    #[cfg_attr(feature = "schema", schema(value_type = Medium))]
    pub medium: String,
    /// How much of it, 0.5 to 2000 l; where left out nothing is said of its warmth.
    #[cfg_attr(feature = "schema", schema(minimum = 0.5, maximum = 2000))]
    pub litres: Option<f64>,
    /// How warm it is, °C.
    #[cfg_attr(feature = "schema", schema(minimum = -20, maximum = 600))]
    pub bath_c: f64,
    /// Mass of the bar, 0.01 to 50 kg.
    #[cfg_attr(feature = "schema", schema(minimum = 0.01, maximum = 50))]
    pub bar_kg: Option<f64>,
    /// How hot the bar is, −200 to 1300 °C.
    #[cfg_attr(feature = "schema", schema(minimum = -200, maximum = 1300))]
    pub bar_c: Option<f64>,
}

/// What is known of a bath.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BathView {
    /// How warm the bar makes it, where its litres and the bar were said.
    pub warmth: Option<BathWarmth>,
    /// How many times as thick its oil is as at its usual temperature; none of what is no oil.
    pub thickness: Option<f64>,
    /// How many times as much heat it carries off below the boiling.
    pub convection: f64,
}

impl BathBody {
    fn answer(&self) -> Result<BathView, Faults> {
        let mut c = Checker::default();
        let medium = c.take(Medium::parse(&self.medium).ok_or_else(|| {
            Faults::with_allowed("medium", "There is no such bath.", ids::<Medium>())
        }));
        if let Some(medium) = medium {
            let (low, high) = medium.bath_range_c();
            if !(low..=high).contains(&self.bath_c) {
                let message = format!("This is not a working temperature of {}.", medium.name());
                c.refuse_outside("bath_c", message, (low, high), Unit::Celsius);
            }
        }
        let bath_c = Celsius::clamped(self.bath_c);
        let litres = self.litres.map(|v| c.take(Litres::check("litres", v)));
        let kg = self.bar_kg.map(|v| c.take(Kilograms::check("bar_kg", v)));
        let bar_c = self.bar_c.map(|v| c.take(Celsius::check("bar_c", v)));
        let bar = kg.flatten().zip(bar_c.flatten());
        c.finish(medium.map(|medium| {
            let as_usual = viscosity_mm2_s(medium, medium.usual_bath().value());
            let now = viscosity_mm2_s(medium, self.bath_c);
            BathView {
                warmth: litres
                    .flatten()
                    .zip(bar)
                    .and_then(|(litres, bar)| warmed(medium, litres, bath_c, bar)),
                thickness: now.zip(as_usual).map(|(now, usual)| now / usual),
                convection: convection(medium, self.bath_c),
            }
        }))
    }
}

/// How warm a bath gets, and how thick its oil is.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "predict", request_body = BathBody,
    responses((status = 200, body = BathView), crate::openapi::Problems)))]
#[post("/bath", data = "<body>")]
pub fn warm(_me: SignedIn, body: Body<BathBody>) -> Result<Json<BathView>, Problem> {
    Ok(Json(body.0.answer()?))
}
