//! Every parser of a foreign file, given what was never a file: a kept corpus, cut, flipped and spliced. No text
//! may end the process, and what is read is finite. `FUZZ_ROUNDS` goes on for longer, `FUZZ_SEED` elsewhere.
use rstest::rstest;
use std::fs;
use std::path::Path;
use vatten_core::import::{DrawingUnit, Laying, dxf, lay, log, svg};
use vatten_core::quantity::validation::Faults;

/// SplitMix64 (Steele, Lea and Flood 2014): the same texts on every machine.
struct Random(u64);

impl Random {
    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }

    fn below(&mut self, n: usize) -> usize {
        (self.next() % n.max(1) as u64) as usize
    }
}

/// What numbers, times and tags do not expect in their place.
const PIECES: [&str; 16] = [
    "1e308",
    "-1e-320",
    "NaN",
    "inf",
    "-",
    "99999999999999999999",
    "\u{0}",
    "\u{feff}",
    "\r",
    ";",
    ",,",
    "<",
    "&#0;",
    "24:61:61",
    "0\nSECTION\n",
    "m1 1z",
];

/// One to six changes of a text, each somewhere in it.
fn mutated(text: &str, other: &str, random: &mut Random) -> String {
    let mut bytes = text.as_bytes().to_vec();
    for _ in 0..=random.below(6) {
        let at = random.below(bytes.len() + 1);
        let to = (at + random.below(24)).min(bytes.len());
        match random.below(6) {
            0 => bytes.truncate(at),
            1 => drop(bytes.drain(at..to)),
            2 => bytes
                .splice(at..at, PIECES[random.below(PIECES.len())].bytes())
                .for_each(drop),
            3 => {
                let again = bytes[at..to].repeat(1 + random.below(40));
                bytes.splice(at..at, again).for_each(drop);
            }
            4 => {
                let from = random.below(other.len());
                let until = (from + random.below(60)).min(other.len());
                let piece = other.as_bytes()[from..until].to_vec();
                bytes.splice(at..to, piece).for_each(drop);
            }
            _ => {
                if let Some(byte) = bytes.get_mut(at) {
                    *byte = random.next() as u8;
                }
            }
        }
    }
    String::from_utf8_lossy(&bytes).into_owned()
}

fn number(name: &str, usual: u64) -> u64 {
    std::env::var(name)
        .ok()
        .and_then(|v| v.parse().ok())
        .unwrap_or(usual)
}

fn finite(what: &str, good: bool) -> Result<(), Faults> {
    assert!(good, "{what} is not finite");
    Ok(())
}

fn in_mm() -> Laying {
    Laying {
        unit: Some(DrawingUnit::Mm),
        ..Laying::default()
    }
}

fn read_svg(text: &str) -> Result<(), Faults> {
    let drawn = svg::read(text)?;
    finite(
        "a point",
        drawn
            .loops
            .iter()
            .flatten()
            .all(|p| p.iter().all(|c| c.is_finite())),
    )?;
    lay(&drawn, in_mm()).map(|_| ())
}

fn read_dxf(text: &str) -> Result<(), Faults> {
    let drawn = dxf::read(text)?;
    finite(
        "a point",
        drawn
            .loops
            .iter()
            .flatten()
            .all(|p| p.iter().all(|c| c.is_finite())),
    )?;
    lay(&drawn, in_mm()).map(|_| ())
}

fn read_log(text: &str) -> Result<(), Faults> {
    let read = log::read(text, None)?;
    finite(
        "a sample",
        read.samples.iter().all(|s| s.celsius.is_finite()),
    )?;
    assert!(read.samples.is_sorted_by_key(|s| s.at_ms));
    Ok(())
}

#[rstest]
#[case("svg", read_svg)]
#[case("dxf", read_dxf)]
#[case("log", read_log)]
fn no_text_breaks_a_parser(#[case] kind: &str, #[case] read: fn(&str) -> Result<(), Faults>) {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR"))
        .join("tests/corpus")
        .join(kind);
    let mut paths: Vec<_> = fs::read_dir(folder)
        .unwrap()
        .map(|f| f.unwrap().path())
        .collect();
    paths.sort();
    let corpus: Vec<String> = paths
        .iter()
        .map(|p| fs::read_to_string(p).unwrap())
        .collect();
    assert!(corpus.len() >= 2);
    assert!(corpus.iter().any(|text| read(text).is_ok()));
    let mut read_well = 0;
    for text in &corpus {
        for at in (0..text.len()).filter(|at| text.is_char_boundary(*at)) {
            let _ = read(&text[..at]);
        }
    }
    let mut random = Random(number("FUZZ_SEED", 17));
    let rounds = number("FUZZ_ROUNDS", 4000);
    for _ in 0..rounds {
        let text = &corpus[random.below(corpus.len())];
        let other = &corpus[random.below(corpus.len())];
        read_well += u64::from(read(&mutated(text, other, &mut random)).is_ok());
    }
    // Neither all refused at the door nor all let through.
    assert!(
        read_well > rounds / 100 && read_well < rounds,
        "{read_well} of {rounds}"
    );
}
