//! `docs/validation.md` and its plots, written from the published values: `WRITE_VALIDATION=1` writes them anew,
//! otherwise they must be what the engine says now.

use crate::published::{Published, Sure, computed, predicted_hrc, rows};
use std::fmt::Write as _;
use std::path::PathBuf;
use vatten_core::quantity::interval::NINETY;

/// A row beside what the core says.
struct Held {
    row: Published,
    got: f64,
    /// One standard deviation of a hardness, HRC.
    deviation: Option<f64>,
}

impl Held {
    fn off(&self) -> f64 {
        self.got - self.row.value
    }

    fn is_bar(&self) -> bool {
        let s = &self.row.section;
        s.starts_with("round") || s.starts_with("jominy")
    }

    fn is_hardness(&self) -> bool {
        self.row.quantity.ends_with("_hrc")
    }

    fn is_inside(&self) -> Option<bool> {
        let deviation = self.deviation?;
        Some(self.off().abs() <= NINETY * deviation.hypot(self.row.uncertainty))
    }
}

fn all() -> Vec<Held> {
    rows()
        .into_iter()
        .filter_map(|row| {
            let got = computed(&row)?;
            let deviation = predicted_hrc(&row).map(|p| p.1);
            Some(Held {
                row,
                got,
                deviation,
            })
        })
        .collect()
}

/// Number, mean absolute error, that of a prediction without any error (of the published values alone, at their own
/// uncertainty), bias, share inside the 90 % interval, mean width of it.
fn line(name: &str, of: &[&Held]) -> String {
    let n = of.len() as f64;
    if of.is_empty() {
        return String::new();
    }
    let mae = of.iter().map(|h| h.off().abs()).sum::<f64>() / n;
    let bias = of.iter().map(|h| h.off()).sum::<f64>() / n;
    let own =
        std::f64::consts::FRAC_2_PI.sqrt() * of.iter().map(|h| h.row.uncertainty).sum::<f64>() / n;
    let inside: Vec<bool> = of.iter().filter_map(|h| h.is_inside()).collect();
    let share = inside.iter().filter(|i| **i).count() as f64 / inside.len().max(1) as f64;
    let width = of
        .iter()
        .filter_map(|h| h.deviation)
        .map(|d| 2.0 * NINETY * d)
        .sum::<f64>()
        / n;
    if inside.is_empty() {
        return format!(
            "| {name} | {} | {mae:.2} | {own:.2} | {bias:+.2} | | |\n",
            of.len()
        );
    }
    format!(
        "| {name} | {} | {mae:.2} | {own:.2} | {bias:+.2} | {:.0} % | {width:.1} |\n",
        of.len(),
        100.0 * share
    )
}

const HEAD: &str = "| rows | number | mean error | of the values themselves | bias | inside 90 % | mean width |\n|---|---|---|---|---|---|---|\n";

type Part = (&'static str, fn(&Held) -> bool);

const HARDNESS: [Part; 9] = [
    ("**small pieces, table steels**", |h| {
        !h.is_bar() && !h.row.steel.is_empty()
    }),
    ("… sure A", |h| {
        !h.is_bar() && !h.row.steel.is_empty() && h.row.sure == Sure::A
    }),
    ("… sure B", |h| {
        !h.is_bar() && !h.row.steel.is_empty() && h.row.sure == Sure::B
    }),
    ("**small pieces, by analysis**", |h| {
        !h.is_bar() && h.row.steel.is_empty()
    }),
    ("… sure A", |h| {
        !h.is_bar() && h.row.steel.is_empty() && h.row.sure == Sure::A
    }),
    ("… sure B", |h| {
        !h.is_bar() && h.row.steel.is_empty() && h.row.sure == Sure::B
    }),
    ("**bars and end-quench, table steels**", |h| {
        h.is_bar() && !h.row.steel.is_empty()
    }),
    ("**bars and end-quench, by analysis**", |h| {
        h.is_bar() && h.row.steel.is_empty()
    }),
    ("**all**", |_| true),
];

const OTHERS: [(&str, &str); 9] = [
    ("retained_austenite_percent", "retained austenite, %"),
    ("ms_c", "martensite start, °C"),
    ("ac1_c", "Ac1, °C"),
    ("ac3_c", "Ac3, °C"),
    ("acm_c", "Acm, °C"),
    ("grain_astm", "grain, ASTM number"),
    ("nose_1pct_s", "1 % pearlite at the nose, s"),
    ("bainite_1pct_s", "1 % bainite, s"),
    ("plate_half_martensite_mm", "half-martensite plate, mm"),
];

/// Likely reasons of the rows that are furthest off.
const REASONS: [(&str, &str); 9] = [
    (
        "al-024",
        "hardenability of lean Cr-Mo steel too high; the change to soft is too sudden",
    ),
    (
        "al-092",
        "hardenability of manganese without chromium too low: the product of factors levels off too little",
    ),
    (
        "ss-059",
        "so much vanadium carbide ties more carbon than the balance takes; austenite of overheated 17 % Cr",
    ),
    (
        "ss-021",
        "16 % chromium with little carbon is part ferrite at its heat, which the balance does not know",
    ),
    (
        "pc-083",
        "the film of salt is for still pots; rods were stirred in, and escaped pearlite",
    ),
    ("al-008", "as al-024"),
    ("ss-022", "as ss-021"),
    (
        "oh-094",
        "the row's soak leaves carbide of a 0.55 % steel undissolved; computed as all dissolved",
    ),
    (
        "al-063",
        "the last part to turn near the quenched end: transition too sudden",
    ),
];

fn tables(held: &[Held]) -> String {
    let mut text = String::new();
    for (title, apart) in [("The open half", false), ("The half set apart", true)] {
        let half: Vec<&Held> = held
            .iter()
            .filter(|h| h.row.is_set_apart() == apart)
            .collect();
        let _ = write!(text, "### {title}\n\nHardness, HRC:\n\n{HEAD}");
        for (name, is) in HARDNESS {
            let of: Vec<&Held> = half
                .iter()
                .copied()
                .filter(|h| h.is_hardness() && is(h))
                .collect();
            text += &line(name, &of);
        }
        let _ = write!(text, "\nOther quantities, each in its unit:\n\n{HEAD}");
        for (quantity, name) in OTHERS {
            let of: Vec<&Held> = half
                .iter()
                .copied()
                .filter(|h| h.row.quantity == quantity)
                .collect();
            text += &line(name, &of);
        }
        text += "\n";
    }
    text
}

fn worst(held: &[Held]) -> String {
    let mut hardness: Vec<&Held> = held.iter().filter(|h| h.is_hardness()).collect();
    let sigmas = |h: &Held| h.off().abs() / h.deviation.unwrap_or(1.0).hypot(h.row.uncertainty);
    hardness.sort_by(|a, b| sigmas(b).total_cmp(&sigmas(a)));
    let mut text = String::from(
        "| row | what | published | computed | likely reason |\n|---|---|---|---|---|\n",
    );
    for h in hardness.into_iter().take(10) {
        let r = &h.row;
        let steel = if r.steel.is_empty() {
            let parts: Vec<String> = r.analysis.iter().map(|(k, v)| format!("{k} {v}")).collect();
            parts.join(" ")
        } else {
            r.steel.clone()
        };
        let temper = r.tempers.map_or(String::new(), |(n, hours, t)| {
            format!(", {n} × {hours:.1} h at {t} °C")
        });
        let heat = r
            .austenitize_c
            .map_or(String::new(), |t| format!(", {t} °C"));
        let section = if r.section.is_empty() {
            String::new()
        } else {
            format!(", {}", r.section)
        };
        let reason = REASONS.iter().find(|x| x.0 == r.id).map_or("", |x| x.1);
        let _ = writeln!(
            text,
            "| {} | {steel}{heat}, {}{section}{temper} | {:.1} ± {:.1} | {:.1} ± {:.1} | {reason} |",
            r.id,
            r.medium,
            r.value,
            r.uncertainty,
            h.got,
            h.deviation.unwrap_or_default(),
        );
    }
    text
}

/// Predicted against published hardness as a picture, SVG: filled for table steels, open by analysis; squares for
/// bars.
fn plot(held: &[Held]) -> String {
    const SIDE: f64 = 520.0;
    const LOW: f64 = 18.0;
    const HIGH: f64 = 70.0;
    let at = |hrc: f64| 40.0 + (hrc.clamp(LOW, HIGH) - LOW) / (HIGH - LOW) * (SIDE - 60.0);
    let mut svg = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {SIDE} {SIDE}\" font-family=\"sans-serif\" font-size=\"11\">\n\
         <rect width=\"{SIDE}\" height=\"{SIDE}\" fill=\"#f7f4ee\"/>\n"
    );
    for hrc in [20.0, 30.0, 40.0, 50.0, 60.0, 70.0] {
        let x = at(hrc);
        let y = SIDE - x;
        let _ = write!(
            svg,
            "<path d=\"M{x:.1} {:.1}V20M40 {y:.1}H{:.1}\" stroke=\"#d8d2c4\" fill=\"none\"/>\n\
             <text x=\"{x:.1}\" y=\"{:.1}\" text-anchor=\"middle\" fill=\"#57503f\">{hrc:.0}</text>\n\
             <text x=\"34\" y=\"{:.1}\" text-anchor=\"end\" fill=\"#57503f\">{hrc:.0}</text>\n",
            SIDE - 40.0,
            SIDE - 20.0,
            SIDE - 24.0,
            y + 4.0,
        );
    }
    let (a, b) = (at(LOW), at(HIGH));
    for (off, dash) in [
        (0.0, ""),
        (3.0, " stroke-dasharray=\"4 4\""),
        (-3.0, " stroke-dasharray=\"4 4\""),
    ] {
        let shift = off / (HIGH - LOW) * (SIDE - 60.0);
        let _ = writeln!(
            svg,
            "<path d=\"M{a:.1} {:.1}L{b:.1} {:.1}\" stroke=\"#8a7f66\" fill=\"none\"{dash}/>",
            SIDE - a - shift,
            SIDE - b - shift,
        );
    }
    for h in held.iter().filter(|h| h.is_hardness()) {
        let (x, y) = (at(h.row.value), SIDE - at(h.got));
        let colour = if h.row.steel.is_empty() {
            "none"
        } else {
            "#2f5d62"
        };
        if h.is_bar() {
            let _ = writeln!(
                svg,
                "<rect x=\"{:.1}\" y=\"{:.1}\" width=\"6\" height=\"6\" fill=\"{colour}\" stroke=\"#2f5d62\"/>",
                x - 3.0,
                y - 3.0
            );
        } else {
            let _ = writeln!(
                svg,
                "<circle cx=\"{x:.1}\" cy=\"{y:.1}\" r=\"3.2\" fill=\"{colour}\" stroke=\"#2f5d62\"/>"
            );
        }
    }
    let _ = write!(
        svg,
        "<text x=\"{:.1}\" y=\"{:.1}\" text-anchor=\"middle\" fill=\"#2b2618\">published, HRC</text>\n\
         <text x=\"14\" y=\"{:.1}\" text-anchor=\"middle\" fill=\"#2b2618\" transform=\"rotate(-90 14 {:.1})\">computed, HRC</text>\n</svg>\n",
        SIDE / 2.0,
        SIDE - 8.0,
        SIDE / 2.0,
        SIDE / 2.0
    );
    svg
}

fn docs() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../docs")
}

const BEGIN: &str = "<!-- written by WRITE_VALIDATION=1 -->\n";
const END: &str = "<!-- until here -->\n";

/// Replaces what stands between two marks.
fn between(text: &str, n: usize, with: &str) -> String {
    let mut parts: Vec<String> = text.split(BEGIN).map(str::to_owned).collect();
    let (_, rest) = parts[n].split_once(END).unwrap();
    parts[n] = format!("\n{with}\n{END}{rest}");
    parts.join(BEGIN)
}

#[test]
fn the_document_says_what_the_engine_says() {
    let held = all();
    let path = docs().join("validation.md");
    let text = std::fs::read_to_string(&path).unwrap();
    let new = between(&between(&text, 1, &tables(&held)), 2, &worst(&held));
    let drawn = docs().join("validation.svg");
    if std::env::var_os("WRITE_VALIDATION").is_some() {
        std::fs::write(&path, &new).unwrap();
        std::fs::write(&drawn, plot(&held)).unwrap();
        return;
    }
    assert!(
        new == text,
        "docs/validation.md is not what the engine says: WRITE_VALIDATION=1"
    );
    let svg = std::fs::read_to_string(&drawn).unwrap();
    assert!(
        svg == plot(&held),
        "docs/validation.svg is not what the engine says"
    );
}

#[test]
fn small_pieces_of_table_steels_are_met_within_a_point_and_a_half() {
    let held = all();
    let small: Vec<&Held> = held
        .iter()
        .filter(|h| h.is_hardness() && !h.is_bar() && !h.row.steel.is_empty())
        .collect();
    let n = small.len() as f64;
    let mae = small.iter().map(|h| h.off().abs()).sum::<f64>() / n;
    let inside = small.iter().filter(|h| h.is_inside() == Some(true)).count() as f64 / n;
    assert!(mae <= 1.5, "{mae}");
    assert!(inside >= 0.85, "{inside}");
}
