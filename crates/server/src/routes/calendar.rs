//! A shop's calendar, that other programs subscribe to under a secret address.

use crate::auth::digest;
use crate::day::{Shop, calendar_of};
use crate::predictor::Predictor;
use crate::problem::Problem;
use rocket::http::{ContentType, Status};
use rocket::{State, get};
use std::sync::Arc;
use vatten_store::{Error, PgPool, day};

/// Longest address that is looked up.
const LONGEST: usize = 120;

/// The calendar behind a secret; nothing tells an address that was revoked from one that never was.
#[get("/calendar/<file>")]
pub async fn read(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    file: &str,
) -> Result<(ContentType, String), Problem> {
    let secret = file.strip_suffix(".ics").filter(|s| s.len() <= LONGEST);
    let none = || Problem::new(Status::NotFound, "There is no such calendar.");
    let secret = secret.ok_or_else(none)?;
    let id = match day::shop_of_calendar(pool.inner(), &digest(secret)).await {
        Ok(id) => id,
        Err(Error::NotFound) => return Err(none()),
        Err(other) => return Err(other.into()),
    };
    let shop = Shop {
        pool,
        predictor,
        id,
    };
    Ok((ContentType::Calendar, calendar_of(shop).await?))
}
