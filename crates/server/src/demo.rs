//! The demo shop: a file of its records, and the stand-ins for its devices.

use crate::problem::Problem;
use crate::{auth, exchange, predictor};
use vatten_core::process::station::StationKind;
use vatten_core::record::device::{Device, Register, RegisterMap, Table};
use vatten_store::person::NewPerson;
use vatten_store::station::NewStation;
use vatten_store::{PgPool, person, station};

/// The demo login.
pub const DEMO_EMAIL: &str = "smith@brinholm.example";
/// Its password: the demo holds nothing that needs keeping.
pub const DEMO_PASSWORD: &str = "orchard and harbour";

/// Loads the demo shop from an exchange file unless somebody has the demo login.
///
/// # Errors
/// A sentence: the file cannot be read or does not fit.
pub async fn load(pool: &PgPool, file: &std::path::Path) -> Result<bool, String> {
    let known = person::credentials(pool, DEMO_EMAIL)
        .await
        .map_err(|e| e.to_string())?;
    if known.is_some() {
        return Ok(false);
    }
    let first_fault =
        |p: Problem| format!("{}: {} {:?}", file.display(), p.detail, p.fields.first());
    let name = exchange::shop_name(file).map_err(|e| format!("{}: {e}", file.display()))?;
    let hash = auth::hash(DEMO_PASSWORD.to_owned())
        .await
        .map_err(first_fault)?;
    let (id, _) = person::sign_up(
        pool,
        &name,
        NewPerson {
            name: "Tove Brinholm",
            email: DEMO_EMAIL,
            password_hash: &hash,
        },
    )
    .await
    .map_err(|e| e.to_string())?;
    exchange::import(pool, &predictor::Predictor::default(), id, file, true)
        .await
        .map_err(first_fault)?;
    Ok(true)
}

/// Connects kiln, oven and tester of the demo shop to stand-ins at these ports of this machine.
///
/// # Errors
/// A sentence: there is no demo shop, or the database cannot be reached.
pub async fn connect(pool: &PgPool, [kiln, oven, tester]: [u16; 3]) -> Result<(), String> {
    let message = |e: vatten_store::Error| e.to_string();
    let known = person::credentials(pool, DEMO_EMAIL)
        .await
        .map_err(message)?;
    let id = known.ok_or("there is no demo shop")?.workshop;
    let host = || "127.0.0.1".to_owned();
    let modbus = |port| Device::Modbus {
        host: host(),
        port,
        map: RegisterMap {
            unit: 1,
            temperature: Register {
                address: 0,
                table: Table::Input,
            },
            set_point: Some(Register {
                address: 0,
                table: Table::Holding,
            }),
            per_degree: 10,
            fahrenheit: false,
        },
    };
    let lines = Device::Lines {
        host: host(),
        port: tester,
        pattern: "HRC {value}".to_owned(),
    };
    let wanted = [
        (StationKind::Kiln, modbus(kiln)),
        (StationKind::Oven, modbus(oven)),
        (StationKind::Tester, lines),
    ];
    let all = station::list(pool, id).await.map_err(message)?;
    for (kind, device) in wanted {
        let Some(s) = all
            .iter()
            .find(|s| s.kind == kind && s.retired_at.is_none())
        else {
            continue;
        };
        let new = NewStation {
            device: Some(device),
            ..NewStation::from(s)
        };
        if s.device != new.device {
            station::update(pool, id, s.id, &new, s.version)
                .await
                .map_err(message)?;
        }
    }
    Ok(())
}
