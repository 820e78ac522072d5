//! Configuration from environment variables, with safe defaults.

use crate::device::reach::Reach;
use std::net::IpAddr;
use std::path::PathBuf;
use tracing::level_filters::LevelFilter;

/// How a line of the log is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LogFormat {
    /// For people.
    Text,
    /// One JSON object a line, for programs.
    Json,
}

/// What is logged and how, from `VATTEN_LOG` (`off`, `error`, `warn`, `info`, `debug` or `trace`; `info` by
/// default) and `VATTEN_LOG_FORMAT` (`text`, the default, or `json`).
///
/// # Errors
/// A sentence that names the variable that is wrong.
pub fn log_from_env() -> Result<(LevelFilter, LogFormat), String> {
    let var = |name: &str| std::env::var(name).ok().filter(|v| !v.is_empty());
    let level = var("VATTEN_LOG").unwrap_or_else(|| "info".to_owned());
    let format = match var("VATTEN_LOG_FORMAT").as_deref() {
        None | Some("text") => LogFormat::Text,
        Some("json") => LogFormat::Json,
        Some(other) => return Err(format!("VATTEN_LOG_FORMAT is not text or json: {other}")),
    };
    let level = level.parse().map_err(|_| {
        format!("VATTEN_LOG is not off, error, warn, info, debug or trace: {level}")
    })?;
    Ok((level, format))
}

/// Who may open a shop.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SignUps {
    /// Anybody.
    Open,
    /// Nobody; people come by invitation into a shop that there is.
    Invitation,
    /// Nobody, and nobody comes in by invitation either.
    Off,
}

/// What the server needs to know to start.
#[derive(Debug, Clone)]
pub struct Config {
    /// `VATTEN_DATABASE_URL`: PostgreSQL. No default.
    pub database_url: String,
    /// `VATTEN_ADDRESS`: address to listen on; loopback by default.
    pub address: IpAddr,
    /// `VATTEN_PORT`: port to listen on; 8080 by default.
    pub port: u16,
    /// `VATTEN_WEB`: folder of the built front end; `web/dist` by default.
    pub web: PathBuf,
    /// `VATTEN_DEMO`: exchange file of the demo shop, loaded when the demo login does not exist yet.
    pub demo: Option<PathBuf>,
    /// `VATTEN_STANDINS`: ports of this machine where stand-ins for the kiln, oven and tester of the demo
    /// listen, as `8502,8503,8504`.
    pub standins: Option<[u16; 3]>,
    /// `VATTEN_BEHIND_TLS`: `true` when browsers reach the server over https; makes cookies `Secure`.
    pub behind_tls: bool,
    /// `VATTEN_DEVICES`: which hosts stations may be reached at, of those that a shop enters: `private`
    /// (this machine and private networks; the default), `any`, or `off`.
    pub devices: Reach,
    /// `VATTEN_SPOOL`: folder where readings of connected testers wait while the database is away;
    /// `vatten-spool` in the folder for temporary files by default.
    pub spool: PathBuf,
    /// `VATTEN_SIGN_UP`: `open` (the default), `invitation` or `off`.
    pub sign_up: SignUps,
    /// `VATTEN_CONNECTIONS`: most database connections; 20 by default.
    pub connections: u32,
}

impl Config {
    /// Reads the environment.
    ///
    /// # Errors
    /// A sentence that names the variable that is missing or wrong.
    pub fn from_env() -> Result<Self, String> {
        let var = |name: &str| std::env::var(name).ok().filter(|v| !v.is_empty());
        let number = |name: &str, default: u32| match var(name) {
            None => Ok(default),
            Some(text) => text
                .parse()
                .map_err(|_| format!("{name} is not a number: {text}")),
        };
        let address = var("VATTEN_ADDRESS").unwrap_or_else(|| "127.0.0.1".to_owned());
        Ok(Self {
            database_url: var("VATTEN_DATABASE_URL")
                .ok_or("VATTEN_DATABASE_URL is not set: where is the database?")?,
            address: address
                .parse()
                .map_err(|_| format!("VATTEN_ADDRESS is not an address: {address}"))?,
            port: u16::try_from(number("VATTEN_PORT", 8080)?)
                .map_err(|_| "VATTEN_PORT is over 65535".to_owned())?,
            web: var("VATTEN_WEB")
                .unwrap_or_else(|| "web/dist".to_owned())
                .into(),
            demo: var("VATTEN_DEMO").map(PathBuf::from),
            standins: match var("VATTEN_STANDINS") {
                None => None,
                Some(text) => {
                    let ports: Result<Vec<u16>, _> = text.split(',').map(str::parse).collect();
                    let three = ports.ok().and_then(|p| p.try_into().ok());
                    Some(three.ok_or(format!("VATTEN_STANDINS is not three ports: {text}"))?)
                }
            },
            behind_tls: var("VATTEN_BEHIND_TLS").is_some_and(|v| v == "true"),
            devices: match var("VATTEN_DEVICES").as_deref() {
                None | Some("private") => Reach::Private,
                Some("any") => Reach::Any,
                Some("off") => Reach::Off,
                Some(other) => {
                    return Err(format!(
                        "VATTEN_DEVICES is not private, any or off: {other}"
                    ));
                }
            },
            sign_up: match var("VATTEN_SIGN_UP").as_deref() {
                None | Some("open") => SignUps::Open,
                Some("invitation") => SignUps::Invitation,
                Some("off") => SignUps::Off,
                Some(other) => {
                    return Err(format!(
                        "VATTEN_SIGN_UP is not open, invitation or off: {other}"
                    ));
                }
            },
            spool: var("VATTEN_SPOOL")
                .map_or_else(|| std::env::temp_dir().join("vatten-spool"), PathBuf::from),
            connections: number("VATTEN_CONNECTIONS", 20)?.clamp(1, 500),
        })
    }
}
