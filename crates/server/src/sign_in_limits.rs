//! How often passwords and codes may be tried. A stranger who guesses is stopped, by their own address on the network
//! as by whose account it is, and yet cannot keep out those who sign in from a browser they are known by.

use crate::auth::{DEVICE_COOKIE, digest};
use crate::config::Config;
use rocket::request::{FromRequest, Outcome, Request};
use std::convert::Infallible;
use std::net::IpAddr;
use vatten_store::tries::Limit;
use vatten_store::{Error, PgPool, email, session};

/// Tries of one client at one account, or from one known browser, in a quarter of an hour.
pub const MOST_EACH: i64 = 10;
/// Tries of one client at all accounts, in a quarter of an hour.
const MOST_OF_CLIENT: i64 = 40;
/// Tries of all unknown clients at one account, in an hour.
const MOST_AT_ACCOUNT: i64 = 200;
/// Shops that one client may open in a day.
const MOST_SHOPS: i64 = 30;
const QUARTER: i32 = 15;
const HOUR: i32 = 60;
const DAY: i32 = 24 * 60;

/// Where a request comes from, and the browser it may be known by.
#[derive(Debug, Clone)]
pub struct Client {
    address: Option<IpAddr>,
    device: Option<Vec<u8>>,
}

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Client {
    type Error = Infallible;

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, Infallible> {
        let device = request.cookies().get(DEVICE_COOKIE);
        Outcome::Success(Self {
            // Behind a proxy it is what the proxy says, else what the connection says.
            address: request.client_ip(),
            device: device.map(|cookie| digest(cookie.value())),
        })
    }
}

/// What one client is told apart by: with version 6 everybody has many addresses.
fn network(address: IpAddr) -> String {
    match address {
        IpAddr::V4(ip) => ip.to_string(),
        IpAddr::V6(ip) => match ip.to_ipv4_mapped() {
            Some(ip) => ip.to_string(),
            None => ip.segments()[..4]
                .iter()
                .map(|s| format!("{s:x}:"))
                .collect(),
        },
    }
}

fn limit(name: &str, of: &[&str], most: i64, minutes: i32) -> Limit {
    Limit {
        bucket: digest(&format!("{name}\n{}", of.join("\n"))),
        most,
        minutes,
    }
}

impl Client {
    /// The secret this browser is known by, as it is kept, if it has one.
    #[must_use]
    pub fn device(&self) -> Option<&[u8]> {
        self.device.as_deref()
    }

    /// The limits of a try at an account.
    ///
    /// # Errors
    /// The database cannot be read.
    pub async fn limits(&self, pool: &PgPool, account: &str) -> Result<Vec<Limit>, Error> {
        let account = email::key(account);
        if let Some(device) = &self.device
            && session::is_known_device(pool, &account, device).await?
        {
            let device: String = device.iter().map(|b| format!("{b:02x}")).collect();
            return Ok(vec![limit(
                "device",
                &[&device, &account],
                MOST_EACH,
                QUARTER,
            )]);
        }
        let client = self.address.map(network).unwrap_or_default();
        let mut limits = vec![
            limit("both", &[&client, &account], MOST_EACH, QUARTER),
            limit("account", &[&account], MOST_AT_ACCOUNT, HOUR),
        ];
        // Within this process everybody comes from nowhere.
        if self.address.is_some() {
            limits.push(limit("client", &[&client], MOST_OF_CLIENT, QUARTER));
        }
        Ok(limits)
    }

    /// The limits of links and codes that say by themselves whose they are, and of opening shops.
    #[must_use]
    pub fn of_client(&self, what: &str) -> Vec<Limit> {
        let client = self.address.map(network);
        let most = if what == "shop" {
            MOST_SHOPS
        } else {
            MOST_OF_CLIENT
        };
        let minutes = if what == "shop" { DAY } else { QUARTER };
        client
            .map(|client| limit(what, &[&client], most, minutes))
            .into_iter()
            .collect()
    }
}

/// The header that tells where a request came from, where a proxy of the operator's own writes it; else anybody could.
#[must_use]
pub fn address_header(config: &Config) -> rocket::figment::value::Value {
    if config.behind_tls {
        "X-Real-IP".into()
    } else {
        false.into()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_client_is_its_address_or_with_version_6_its_network() {
        let of = |text: &str| network(text.parse().unwrap());
        assert_eq!(of("192.0.2.7"), "192.0.2.7");
        assert_eq!(of("::ffff:192.0.2.7"), "192.0.2.7");
        assert_eq!(of("2001:db8:1:2:3::4"), of("2001:db8:1:2:ffff::9"));
        assert_ne!(of("2001:db8:1:2::1"), of("2001:db8:1:3::1"));
    }
}
