//! Which hosts devices may be reached at. A shop enters its own; the operator says how far that may go.

use rocket::tokio::net::lookup_host;
use rocket::tokio::time::timeout;
use std::net::{IpAddr, SocketAddr};

/// How far the server reaches for devices.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Reach {
    /// Nowhere.
    Off,
    /// This machine and private networks.
    Private,
    /// Anywhere that is entered.
    Any,
}

fn is_private(address: IpAddr) -> bool {
    match address {
        IpAddr::V4(v4) => v4.is_loopback() || v4.is_private(),
        IpAddr::V6(v6) => {
            let local = (v6.segments()[0] & 0xfe00) == 0xfc00;
            v6.is_loopback() || local || v6.to_ipv4_mapped().is_some_and(|v4| is_private(v4.into()))
        }
    }
}

impl Reach {
    /// The address of a host, if it may be reached. The name is looked up once and that very address is
    /// then connected to.
    ///
    /// # Errors
    /// A sentence: there is no such host, or it lies outside.
    pub async fn find(self, host: &str, port: u16) -> Result<SocketAddr, String> {
        let found = timeout(super::ANSWERS_WITHIN, lookup_host((host, port))).await;
        let all: Vec<SocketAddr> = match found {
            Ok(Ok(all)) => all.collect(),
            _ => return Err(format!("There is no host {host}.")),
        };
        let allowed = |a: &&SocketAddr| self == Self::Any || is_private(a.ip());
        all.iter().find(allowed).copied().ok_or_else(|| {
            format!(
                "{host} lies outside this machine and private networks, and is not reached for."
            )
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("127.0.0.1", true)]
    #[case("192.168.1.40", true)]
    #[case("10.9.8.7", true)]
    #[case("169.254.169.254", false)]
    #[case("203.0.113.9", false)]
    #[case("::1", true)]
    #[case("fd12::9", true)]
    #[case("2001:db8::1", false)]
    #[case("::ffff:203.0.113.9", false)]
    fn private_is_this_machine_and_its_networks(#[case] text: &str, #[case] private: bool) {
        assert_eq!(is_private(text.parse().unwrap()), private);
    }

    #[rocket::async_test]
    async fn what_lies_outside_is_not_reached_for() {
        assert!(Reach::Private.find("127.0.0.1", 502).await.is_ok());
        let sentence = Reach::Private.find("203.0.113.9", 502).await.unwrap_err();
        assert!(sentence.contains("not reached for"), "{sentence}");
        assert!(Reach::Any.find("203.0.113.9", 502).await.is_ok());
        assert!(
            Reach::Private
                .find("no.such.host.invalid", 502)
                .await
                .is_err()
        );
    }
}
