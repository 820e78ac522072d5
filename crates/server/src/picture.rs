//! Photographs as they come from people: hostile until decoded, and full of what nobody meant to send.
//!
//! A picture is decoded under limits, turned upright, made smaller and written anew as JPEG. Place, time,
//! device and anything else that stood in the file is gone with it.

use image::codecs::jpeg::JpegEncoder;
use image::{DynamicImage, ImageDecoder, ImageError, ImageFormat, ImageReader, Limits};
use std::io::Cursor;
use tokio::sync::{Semaphore, SemaphorePermit};
use vatten_core::quantity::validation::Faults;

/// Longest side kept, dots: on a blade of 300 mm that is an eighth of a millimetre each.
const LONGEST: u32 = 2400;
/// Largest side that is decoded, dots.
const LARGEST: u32 = 12_000;
/// Shortest side kept, dots.
const SHORTEST: u32 = 16;
/// Most that a picture may be when it is decoded, bytes: fifty million dots of three colours.
const DECODED: u64 = 150_000_000;
/// Memory that a decoder may take besides.
const MEMORY: u64 = DECODED + 50_000_000;
/// Pictures are decoded one at a time, whoever sends them.
static DECODING: Semaphore = Semaphore::const_new(1);
/// Quality of the JPEG kept.
const QUALITY: u8 = 88;

/// A picture made anew.
#[derive(Debug)]
pub struct Picture {
    /// JPEG without any metadata.
    pub jpeg: Vec<u8>,
    /// Dots across.
    pub width: u32,
    /// Dots down.
    pub height: u32,
}

fn refused(sentence: &str) -> Faults {
    Faults::with_allowed(
        "picture",
        sentence,
        "a JPEG or PNG, 16 to 12,000 dots a side",
    )
}

/// Reads a JPEG or PNG.
///
/// # Errors
/// A fault at `picture`: no such picture, broken, too large or too small.
pub fn read(bytes: &[u8]) -> Result<Picture, Faults> {
    let mut reader = ImageReader::new(Cursor::new(bytes));
    // What it is the file itself says; its name does not count.
    let format = image::guess_format(bytes).ok();
    if !matches!(format, Some(ImageFormat::Jpeg | ImageFormat::Png)) {
        return Err(refused("This is neither a JPEG nor a PNG."));
    }
    reader.set_format(format.unwrap_or(ImageFormat::Jpeg));
    let mut limits = Limits::default();
    limits.max_image_width = Some(LARGEST);
    limits.max_image_height = Some(LARGEST);
    limits.max_alloc = Some(MEMORY);
    reader.limits(limits);
    let problem_of = |error: ImageError| match error {
        ImageError::Limits(_) => refused("This picture is too large."),
        _ => refused("This picture is broken: it cannot be read to its end."),
    };
    let mut decoder = reader.into_decoder().map_err(problem_of)?;
    // The file says how large it is before anything of it is decoded.
    if decoder.total_bytes() > DECODED {
        return Err(refused("This picture is too large."));
    }
    let upright = decoder.orientation().map_err(problem_of)?;
    let mut image = DynamicImage::from_decoder(decoder).map_err(problem_of)?;
    if image.width().max(image.height()) > LONGEST {
        image = image.thumbnail(LONGEST, LONGEST);
    }
    if image.width().min(image.height()) < SHORTEST {
        return Err(refused(
            "This picture is too small or too narrow to show anything.",
        ));
    }
    // Turned when it is small: turning makes a copy.
    image.apply_orientation(upright);
    let flat = image.into_rgb8();
    let mut jpeg = Vec::new();
    JpegEncoder::new_with_quality(&mut jpeg, QUALITY)
        .encode_image(&flat)
        .map_err(problem_of)?;
    Ok(Picture {
        width: flat.width(),
        height: flat.height(),
        jpeg,
    })
}

/// Waits for the turn of a picture; it lasts until what is given is dropped.
pub async fn turn() -> Option<SemaphorePermit<'static>> {
    DECODING.acquire().await.ok()
}

#[cfg(test)]
mod tests {
    use super::*;
    use image::{Rgb, RgbImage};
    use rstest::rstest;

    fn encoded(format: ImageFormat, width: u32, height: u32) -> Vec<u8> {
        let image = RgbImage::from_fn(width, height, |x, _| Rgb([(x % 250) as u8, 90, 30]));
        let mut bytes = Cursor::new(Vec::new());
        image.write_to(&mut bytes, format).unwrap();
        bytes.into_inner()
    }

    #[test]
    fn a_large_one_is_made_smaller() {
        let got = read(&encoded(ImageFormat::Png, 3000, 1000)).unwrap();
        assert_eq!((got.width, got.height), (2400, 800));
        assert_eq!(image::guess_format(&got.jpeg).unwrap(), ImageFormat::Jpeg);
    }

    #[test]
    fn nothing_but_the_picture_is_kept() {
        let mut bytes = encoded(ImageFormat::Jpeg, 64, 48);
        // A comment and an EXIF segment after the start of the image.
        let exif = b"\xff\xe1\x00\x16Exif\0\0II*\0\x08\0\0\0\0\0\0\0\0\0";
        let comment = b"\xff\xfe\x00\x13north harbour 59.";
        bytes.splice(2..2, exif.iter().chain(comment).copied());
        let got = read(&bytes).unwrap();
        let has = |what: &[u8]| got.jpeg.windows(what.len()).any(|w| w == what);
        assert!(!has(b"Exif") && !has(b"harbour"));
        assert_eq!((got.width, got.height), (64, 48));
    }

    #[rstest]
    #[case(b"GIF89a not wanted".to_vec(), "neither")]
    #[case(b"\xff\xd8\xff\xe0 a fake JPEG with nothing behind it".to_vec(), "broken")]
    #[case(Vec::new(), "neither")]
    #[case(encoded(ImageFormat::Png, 4, 4), "too small")]
    #[case(encoded(ImageFormat::Png, 12_000, 16), "too narrow")]
    #[case(encoded(ImageFormat::Png, 64, 48)[..120].to_vec(), "broken")]
    fn what_is_none_is_refused(#[case] bytes: Vec<u8>, #[case] part: &str) {
        let faults = read(&bytes).unwrap_err();
        assert_eq!(faults.0[0].field, "picture");
        assert!(faults.0[0].message.contains(part), "{faults}");
    }

    /// Most memory this process had since that was last asked, bytes, as the kernel counts it.
    fn peak() -> u64 {
        let status = std::fs::read_to_string("/proc/self/status").unwrap();
        let line = status.lines().find(|l| l.starts_with("VmHWM:")).unwrap();
        let kib: u64 = line.split_whitespace().nth(1).unwrap().parse().unwrap();
        std::fs::write("/proc/self/clear_refs", "5").unwrap();
        kib * 1024
    }

    /// A picture takes about what it is when decoded, and no copies of it: the largest stay under 300 MB.
    #[test]
    fn decoding_makes_no_copies() {
        let bytes = encoded(ImageFormat::Png, 6000, 4000);
        let raw = 6000 * 4000 * 3;
        peak();
        let before = peak();
        read(&bytes).unwrap();
        let taken = peak() - before;
        assert!(taken < raw * 5 / 4 + 40_000_000, "{taken} of {raw}");
        const { assert!(DECODED * 5 / 4 + 40_000_000 < 300_000_000) };
    }

    #[test]
    fn sixteen_bits_a_colour_count_twice() {
        // 6000 by 6000 are 108 MB with eight bits a colour, 288 with sixteen and a fourth.
        let image =
            image::ImageBuffer::<image::Rgba<u16>, _>::from_pixel(64, 48, image::Rgba([9; 4]));
        let mut bytes = Cursor::new(Vec::new());
        image.write_to(&mut bytes, ImageFormat::Png).unwrap();
        let mut bytes = bytes.into_inner();
        bytes[16..24].copy_from_slice(&[0, 0, 0x17, 0x70, 0, 0, 0x17, 0x70]);
        let mut crc = flate2::Crc::new();
        crc.update(&bytes[12..29]);
        bytes[29..33].copy_from_slice(&crc.sum().to_be_bytes());
        let faults = read(&bytes).unwrap_err();
        assert!(faults.0[0].message.contains("too large"), "{faults}");
    }

    #[test]
    fn one_that_claims_to_be_huge_is_not_decoded() {
        let mut bytes = encoded(ImageFormat::Png, 64, 48);
        // Width and height of the header, and its check sum.
        bytes[16..24].copy_from_slice(&[0, 1, 0, 0, 0, 1, 0, 0]);
        let mut crc = flate2::Crc::new();
        crc.update(&bytes[12..29]);
        bytes[29..33].copy_from_slice(&crc.sum().to_be_bytes());
        let faults = read(&bytes).unwrap_err();
        assert!(faults.0[0].message.contains("too large"), "{faults}");
    }
}
