//! A tester or thermometer that sends lines of text over TCP.

use super::{ANSWERS_WITHIN, Listener, Trouble};
use rocket::tokio::io::AsyncReadExt;
use rocket::tokio::net::TcpStream;
use rocket::tokio::select;
use rocket::tokio::time::{Duration, interval, timeout};
use std::net::SocketAddr;
use vatten_core::record::device::value_in;

/// Longest line that a device sends, bytes; what is longer is none.
const LONGEST: usize = 512;
/// How often it is tried to hand on what the database did not take.
const HANDS_ON_EVERY: Duration = Duration::from_secs(3);

/// Reads lines as they come. A tester is silent between two readings: only a broken connection ends this.
///
/// # Errors
/// The connection ended.
pub async fn follow(
    listener: &mut Listener,
    address: SocketAddr,
    pattern: &str,
) -> Result<(), Trouble> {
    let mut stream = match timeout(ANSWERS_WITHIN, TcpStream::connect(address)).await {
        Ok(Ok(stream)) => stream,
        _ => return Err(Trouble::Silent(format!("Nothing answers at {address}."))),
    };
    // With the database away it is listened to all the same.
    let _ = listener.there().await;
    let mut again = interval(HANDS_ON_EVERY);
    let mut waiting: Vec<u8> = Vec::with_capacity(LONGEST);
    let mut bytes = [0u8; 256];
    loop {
        let read = select! {
            read = stream.read(&mut bytes) => read,
            _ = again.tick() => {
                listener.hand_on().await;
                continue;
            }
        };
        let count = match read {
            Ok(0) => return Err(Trouble::Silent("It hung up.".to_owned())),
            Ok(count) => count,
            Err(error) => return Err(Trouble::Silent(format!("The connection broke: {error}."))),
        };
        for byte in &bytes[..count] {
            if *byte != b'\n' && waiting.len() < LONGEST {
                waiting.push(*byte);
                continue;
            }
            let line = String::from_utf8_lossy(&waiting).into_owned();
            waiting.clear();
            match value_in(pattern, &line) {
                Some(value) => {
                    listener.heard_once(value.value()).await;
                }
                None if line.trim().is_empty() => {}
                None => {
                    let seen: String = line.chars().filter(|c| !c.is_control()).take(40).collect();
                    let sentence =
                        format!("It sent “{seen}”, which does not look like “{pattern}”.");
                    listener.tell(&sentence).await;
                }
            }
        }
    }
}
