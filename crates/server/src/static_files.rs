//! The built front end, read once at start: hashed names are immutable, the rest is checked by ETag,
//! and everything that gains from it is sent compressed.

use flate2::Compression;
use flate2::write::GzEncoder;
use rocket::http::{ContentType, Header, Status};
use rocket::request::Request;
use rocket::response::{self, Responder, Response};
use rocket::{State, get};
use sha2::{Digest, Sha256};
use std::collections::HashMap;
use std::io::{Cursor, Write};
use std::path::{Path, PathBuf};
use std::sync::Arc;

struct File {
    bytes: Vec<u8>,
    gzip: Option<Vec<u8>>,
    etag: String,
    kind: ContentType,
    immutable: bool,
}

/// The files by path.
#[derive(Default)]
pub struct StaticFiles(HashMap<String, Arc<File>>);

impl StaticFiles {
    /// Reads a folder.
    ///
    /// # Errors
    /// It cannot be read.
    pub fn read(folder: &Path) -> std::io::Result<Self> {
        let mut files = HashMap::new();
        let mut waiting = vec![folder.to_path_buf()];
        while let Some(next) = waiting.pop() {
            for entry in std::fs::read_dir(next)? {
                let path = entry?.path();
                if path.is_dir() {
                    waiting.push(path);
                } else if let Ok(name) = path.strip_prefix(folder) {
                    let name = name.to_string_lossy().replace('\\', "/");
                    files.insert(
                        name.clone(),
                        Arc::new(File::new(&name, std::fs::read(&path)?)?),
                    );
                }
            }
        }
        Ok(Self(files))
    }
}

impl File {
    fn new(name: &str, bytes: Vec<u8>) -> std::io::Result<Self> {
        let extension = name.rsplit('.').next().unwrap_or_default();
        let text = matches!(extension, "html" | "js" | "css" | "svg" | "json" | "txt");
        let gzip = if text {
            let mut encoder = GzEncoder::new(Vec::new(), Compression::best());
            encoder.write_all(&bytes)?;
            Some(encoder.finish()?)
        } else {
            None
        };
        let hash: String = Sha256::digest(&bytes)
            .iter()
            .take(12)
            .map(|b| format!("{b:02x}"))
            .collect();
        Ok(Self {
            etag: format!("\"{hash}\""),
            kind: ContentType::from_extension(extension).unwrap_or(ContentType::Binary),
            immutable: name.starts_with("assets/"),
            gzip,
            bytes,
        })
    }
}

/// A file on its way out.
pub struct Sent(Arc<File>);

impl<'r> Responder<'r, 'static> for Sent {
    fn respond_to(self, request: &'r Request<'_>) -> response::Result<'static> {
        let file = self.0;
        let cache = if file.immutable {
            "public, max-age=31536000, immutable"
        } else {
            "no-cache"
        };
        let mut out = Response::build();
        out.header(file.kind.clone())
            .header(Header::new("Cache-Control", cache))
            .header(Header::new("ETag", file.etag.clone()))
            .header(Header::new("Vary", "Accept-Encoding"));
        if request.headers().get_one("If-None-Match") == Some(file.etag.as_str()) {
            return out.status(Status::NotModified).ok();
        }
        let accepts = request
            .headers()
            .get("Accept-Encoding")
            .any(|v| v.contains("gzip"));
        let body = match &file.gzip {
            Some(gzip) if accepts => {
                out.header(Header::new("Content-Encoding", "gzip"));
                gzip.clone()
            }
            _ => file.bytes.clone(),
        };
        out.sized_body(body.len(), Cursor::new(body)).ok()
    }
}

/// A file of the front end; any other path that is not the API's is a place within the page.
#[get("/<path..>", rank = 20)]
pub fn serve(front: &State<StaticFiles>, path: PathBuf) -> Option<Sent> {
    let name = path.to_string_lossy().into_owned();
    if name.starts_with("api/") || name == "api" {
        return None;
    }
    let place = || {
        if name.contains('.') {
            None
        } else {
            front.0.get("index.html")
        }
    };
    front
        .0
        .get(&name)
        .or_else(place)
        .map(|file| Sent(Arc::clone(file)))
}
