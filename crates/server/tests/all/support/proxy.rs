//! A proxy before the server, as many shops have one: it passes everything on, answers itself that it cannot,
//! or takes the question and never answers.

use std::io::{Read, Write};
use std::net::{Shutdown, TcpListener, TcpStream};
use std::sync::atomic::{AtomicU8, Ordering};
use std::sync::{Arc, Mutex};
use std::thread;

/// What the proxy does.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Does {
    /// Passes everything on.
    Pass,
    /// Answers 502 with a page of its own.
    BadGateway,
    /// Never answers.
    Silence,
}

/// The proxy; it ends with the test.
pub struct Proxy {
    pub port: u16,
    does: Arc<AtomicU8>,
    open: Arc<Mutex<Vec<TcpStream>>>,
}

const PAGE: &str = "<html><body><h1>502 Bad Gateway</h1></body></html>";

impl Proxy {
    /// Before the server on this port of loopback.
    pub fn before(server: u16) -> Self {
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let port = listener.local_addr().unwrap().port();
        let does = Arc::new(AtomicU8::new(Does::Pass as u8));
        let open: Arc<Mutex<Vec<TcpStream>>> = Arc::default();
        let (now, connections) = (Arc::clone(&does), Arc::clone(&open));
        thread::spawn(move || {
            for client in listener.incoming().flatten() {
                // Together: no connection of before outlives a change.
                let mut open = connections.lock().unwrap();
                let mode = now.load(Ordering::SeqCst);
                open.push(client.try_clone().unwrap());
                drop(open);
                if mode == Does::Pass as u8 {
                    let Ok(to) = TcpStream::connect(("127.0.0.1", server)) else {
                        let _ = client.shutdown(Shutdown::Both);
                        continue;
                    };
                    relay(client.try_clone().unwrap(), to.try_clone().unwrap());
                    relay(to, client);
                } else if mode == Does::BadGateway as u8 {
                    thread::spawn(move || refuse(client));
                }
                // Otherwise it stays open, and nothing is said.
            }
        });
        Self { port, does, open }
    }

    /// From now on it does this; connections from before break off.
    pub fn set(&self, does: Does) {
        let mut open = self.open.lock().unwrap();
        self.does.store(does as u8, Ordering::SeqCst);
        for stream in open.drain(..) {
            let _ = stream.shutdown(Shutdown::Both);
        }
    }
}

fn relay(mut from: TcpStream, mut to: TcpStream) {
    thread::spawn(move || {
        let mut some = [0; 16_384];
        while let Ok(n) = from.read(&mut some) {
            if n == 0 || to.write_all(&some[..n]).is_err() {
                break;
            }
        }
        let _ = to.shutdown(Shutdown::Both);
    });
}

fn refuse(mut client: TcpStream) {
    let mut asked = Vec::new();
    let mut some = [0; 4_096];
    while !asked.windows(4).any(|w| w == b"\r\n\r\n") {
        match client.read(&mut some) {
            Ok(n) if n > 0 => asked.extend_from_slice(&some[..n]),
            _ => return,
        }
    }
    let _ = write!(
        client,
        "HTTP/1.1 502 Bad Gateway\r\nContent-Type: text/html\r\nContent-Length: {}\r\nConnection: close\r\n\r\n{PAGE}",
        PAGE.len()
    );
    let _ = client.shutdown(Shutdown::Write);
    // What was still being sent is taken, so that the answer is not torn off.
    while client.read(&mut some).is_ok_and(|n| n > 0) {}
}
