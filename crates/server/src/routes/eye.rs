//! Eyes: what colours of glowing steel usually mean, and what each operator's eye was found to call them.

use crate::auth::SignedIn;
use crate::materials::{made_of, metal};
use crate::prepared_blade::corrections_now;
use crate::problem::Problem;
use rocket::serde::json::Json;
use rocket::{State, get};
use serde::Serialize;
use uuid::Uuid;
use vatten_core::process::eye::Eye;
use vatten_core::process::glow::chip;
use vatten_core::process::sighting::{About, Glow, Light, Sign};
use vatten_core::process::station::StationKind;
use vatten_core::process::temper_colour::TemperColour;
use vatten_core::quantity::units::{Quantity, Seconds};
use vatten_core::quantity::validation::Faults;
use vatten_store::{PgPool, station};

/// A colour in a light.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GlowView {
    /// The colour.
    pub colour: Glow,
    /// The light it is seen in.
    pub light: Light,
    /// How hot steel usually is that is called so, °C.
    pub middle_c: f64,
    /// How far one look is off, one standard deviation, °C.
    pub look_c: f64,
    /// About how it looks, red, green and blue of a screen, 0 to 255.
    pub rgb: [u8; 3],
}

/// How hot steel is that an eye calls a colour.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SeenView {
    /// The colour.
    pub colour: Glow,
    /// The light.
    pub light: Light,
    /// The middle, °C.
    pub middle_c: f64,
    /// One standard deviation, with what is not known of the eye, °C.
    pub deviation_c: f64,
}

/// An eye of the shop.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EyeView {
    /// The station that it is kept as.
    pub station_id: Uuid,
    /// Whose.
    pub name: String,
    /// What is known of it.
    pub eye: Eye,
    /// What it calls colours.
    pub sees: Vec<SeenView>,
}

/// What a sign that is no colour means for a steel.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SignView {
    /// The sign.
    pub sign: Sign,
    /// How hot the steel then is.
    pub about: About,
}

/// Colours of glowing steel, and the eyes of the shop.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EyesView {
    /// What colours usually mean: each in each light, the coolest first.
    pub glow: Vec<GlowView>,
    /// What other signs mean for the steel of the blade that was asked about; none without a blade.
    pub signs: Vec<SignView>,
    /// Eyes in use.
    pub eyes: Vec<EyeView>,
}

/// A colour that a temper leaves.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TemperColourView {
    /// The colour.
    pub colour: TemperColour,
    /// How hot the steel then is, °C.
    pub middle_c: f64,
}

/// What temper colours mean on the steel of a blade that is held so long.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop",
    params(("blade" = String, Query, description = "Id of the blade"), ("hold_s" = f64, Query, description = "How long it is held, s")),
    responses((status = 200, body = Vec<TemperColourView>), crate::openapi::Problems)))]
#[get("/temper-colours?<blade>&<hold_s>")]
pub async fn temper_colours(
    pool: &State<PgPool>,
    me: SignedIn,
    blade: &str,
    hold_s: &str,
) -> Result<Json<Vec<TemperColourView>>, Problem> {
    let id =
        Uuid::parse_str(blade).map_err(|_| Faults::one("blade", "This is no id of a blade."))?;
    let hold = Seconds::check("hold_s", hold_s.parse().unwrap_or(f64::NAN))?;
    let row = vatten_store::blade::get(pool.inner(), me.workshop, id).await?;
    let steel = metal(&made_of(pool, me.workshop, &row).await?)?.steel;
    let view = |colour: &TemperColour| TemperColourView {
        colour: *colour,
        middle_c: colour.usual(&steel, hold).value().round(),
    };
    Ok(Json(TemperColour::ALL.iter().map(view).collect()))
}

/// Every colour in every light.
fn colours() -> impl Iterator<Item = (Glow, Light)> {
    let of = |light: &'static Light| Glow::ALL.iter().map(move |colour| (*colour, *light));
    Light::ALL.iter().flat_map(of)
}

/// What colours of glowing steel mean, and the eyes of the shop.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop",
    params(("blade" = Option<String>, Query, description = "Id of a blade, for what signs mean for its steel")),
    responses((status = 200, body = EyesView), crate::openapi::Problems)))]
#[get("/eyes?<blade>")]
pub async fn list(
    pool: &State<PgPool>,
    me: SignedIn,
    blade: Option<&str>,
) -> Result<Json<EyesView>, Problem> {
    let signs = match blade {
        None => Vec::new(),
        Some(text) => {
            let id = Uuid::parse_str(text)
                .map_err(|_| Faults::one("blade", "This is no id of a blade."))?;
            let row = vatten_store::blade::get(pool.inner(), me.workshop, id).await?;
            let steel = metal(&made_of(pool, me.workshop, &row).await?)?.steel;
            let all = [
                Sign::MagnetLetsGo {},
                Sign::PastMagnet {},
                Sign::ShadowPassed {},
            ];
            let view = |sign: Sign| SignView {
                sign,
                about: sign.about(&steel),
            };
            all.map(view).into()
        }
    };
    let known = corrections_now(pool, me.workshop).await?;
    let stations = station::list(pool.inner(), me.workshop).await?;
    let eyes = stations
        .into_iter()
        .filter(|s| s.kind == StationKind::Eye && s.retired_at.is_none());
    let view = |s: station::Station| {
        let eye = known.eye(Some(s.id));
        let sees = colours().map(|(colour, light)| {
            let (middle_c, look_c) = eye.sees(colour, light);
            SeenView {
                colour,
                light,
                middle_c,
                deviation_c: eye.doubt_c.hypot(look_c),
            }
        });
        EyeView {
            station_id: s.id,
            name: s.name,
            eye,
            sees: sees.collect(),
        }
    };
    let glow = colours().map(|(colour, light)| {
        let middle_c = colour.usual_c(light);
        GlowView {
            colour,
            light,
            middle_c,
            look_c: light.look_c(),
            rgb: chip(middle_c, light),
        }
    });
    Ok(Json(EyesView {
        glow: glow.collect(),
        signs,
        eyes: eyes.map(view).collect(),
    }))
}
