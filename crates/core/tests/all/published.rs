//! Published values of heat-treated steel (`tests/reference/published.csv`) that the engine is held against.
//!
//! Half of them are set apart by a hash of their identifier, fixed before any constant of the second
//! generation was touched: constants may be judged on the open half only.

use std::collections::BTreeMap;

/// How sure a row is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Sure {
    /// Several sources agree.
    A,
    /// Within the uncertainty, one standard deviation.
    B,
}

/// One published value.
#[derive(Debug, Clone, PartialEq)]
pub struct Published {
    /// Identifier of the row.
    pub id: String,
    /// What was measured, with its unit, as in the file.
    pub quantity: String,
    /// Key of a steel of the table; empty when the row gives an analysis alone.
    pub steel: String,
    /// Weight percent by symbol; empty when the row names a steel alone.
    pub analysis: BTreeMap<String, f64>,
    /// Structure before hardening, as in the file.
    pub condition: String,
    /// Hardening heat, °C.
    pub austenitize_c: Option<f64>,
    /// Soak, minutes.
    pub soak_min: Option<f64>,
    /// Shape, size and place, as in the file; empty for a small piece that hardens through.
    pub section: String,
    /// Medium, as in the file.
    pub medium: String,
    /// Coldest, °C.
    pub sub_zero_c: Option<f64>,
    /// Number, hours and temperature (°C) of equal tempers.
    pub tempers: Option<(u32, f64, f64)>,
    /// The value.
    pub value: f64,
    /// Its uncertainty, one standard deviation.
    pub uncertainty: f64,
    /// How sure.
    pub sure: Sure,
}

impl Published {
    /// True for the half that is set apart: an odd 64-bit FNV-1a hash of the identifier.
    pub fn is_set_apart(&self) -> bool {
        let hash = self.id.bytes().fold(0xcbf2_9ce4_8422_2325_u64, |h, b| {
            (h ^ u64::from(b)).wrapping_mul(0x0100_0000_01b3)
        });
        hash & 1 == 1
    }
}

fn tempers(text: &str) -> Option<(u32, f64, f64)> {
    let (times, rest) = text.split_once('x')?;
    let (hours, temperature) = rest.split_once("h@")?;
    Some((
        times.parse().ok()?,
        hours.parse().ok()?,
        temperature.parse().ok()?,
    ))
}

fn analysis(text: &str) -> BTreeMap<String, f64> {
    text.split_whitespace()
        .map(|pair| {
            let (symbol, percent) = pair.split_once('=').unwrap();
            (symbol.to_owned(), percent.parse().unwrap())
        })
        .collect()
}

/// Every row of the file.
pub fn rows() -> Vec<Published> {
    let text = include_str!("../reference/published.csv");
    let mut reader = csv::ReaderBuilder::new()
        .comment(Some(b'#'))
        .from_reader(text.as_bytes());
    reader
        .records()
        .map(Result::unwrap)
        .map(|row| Published {
            id: row[0].to_owned(),
            quantity: row[1].to_owned(),
            steel: row[2].to_owned(),
            analysis: analysis(&row[3]),
            condition: row[4].to_owned(),
            austenitize_c: row[5].parse().ok(),
            soak_min: row[6].parse().ok(),
            section: row[7].to_owned(),
            medium: row[8].to_owned(),
            sub_zero_c: row[9].parse().ok(),
            tempers: tempers(&row[10]),
            value: row[11].parse().unwrap(),
            uncertainty: row[12].parse().unwrap(),
            sure: match &row[13] {
                "A" => Sure::A,
                _ => Sure::B,
            },
        })
        .collect()
}

#[test]
fn every_row_is_read_and_about_half_are_set_apart() {
    let all = rows();
    assert_eq!(all.len(), 343);
    let apart = all.iter().filter(|r| r.is_set_apart()).count();
    assert!((150..=193).contains(&apart), "{apart}");
    let tempered = |r: &&Published| r.tempers.is_some();
    assert!(all.iter().filter(tempered).count() > 100);
    assert!(
        all.iter()
            .all(|r| !r.steel.is_empty() || !r.analysis.is_empty())
    );
}
