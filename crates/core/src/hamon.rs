//! The hamon: where, going up from the edge, martensite gives way to pearlite.

use crate::quench::Quenched;
use serde::{Deserialize, Serialize};

/// One place of the line.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LinePoint {
    /// From the heel, mm.
    pub x_mm: f64,
    /// Above the edge, where half is martensite, mm.
    pub height_mm: f64,
    /// One line in twenty lies below this, mm.
    pub low_mm: f64,
    /// One line in twenty lies above this, mm.
    pub high_mm: f64,
}

/// A line that can be seen.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Line {
    /// From heel to tip.
    pub points: Vec<LinePoint>,
    /// Height over the blade: mean, mm.
    pub height_mm: f64,
    /// Width of the band from 10 to 90 % martensite: median, mm. Narrow is crisp.
    pub band_mm: f64,
    /// How far the line departs from its own smooth course: root mean square, mm.
    pub liveliness: f64,
    /// How much higher the records put it than the simulation, mm.
    #[serde(default)]
    pub learned_mm: f64,
    /// How many times as wide the records make its band.
    #[serde(default = "once")]
    pub learned_wider: f64,
}

const fn once() -> f64 {
    1.0
}

impl Line {
    /// Height that the simulation alone gives at `x`, mm; beyond its ends that of the nearest place.
    #[must_use]
    pub fn simulated_mm(&self, x: f64) -> Option<f64> {
        let i = self.points.partition_point(|p| p.x_mm <= x);
        let height = match (i.checked_sub(1).map(|i| self.points[i]), self.points.get(i)) {
            (Some(a), Some(b)) => {
                a.height_mm + (b.height_mm - a.height_mm) * (x - a.x_mm) / (b.x_mm - a.x_mm)
            }
            (Some(only), None) => only.height_mm,
            (None, Some(only)) => only.height_mm,
            (None, None) => return None,
        };
        Some(height - self.learned_mm)
    }
}

/// The line, or why there is none.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(untagged)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Hamon {
    /// A line.
    Line(Line),
    /// No line.
    None {
        /// The reason in a sentence.
        none: String,
    },
}

impl Hamon {
    /// The line as records correct it: `shift` mm higher, its band `wider` times as wide, known to
    /// `deviation` mm (one standard deviation, the scatter of the simulation aside).
    #[must_use]
    pub fn learned(self, shift: f64, deviation: f64, wider: f64) -> Self {
        let Self::Line(mut line) = self else {
            return self;
        };
        line.band_mm *= wider;
        (line.learned_mm, line.learned_wider) = (shift, wider);
        let half = spread_mm(line.band_mm, deviation);
        for p in &mut line.points {
            p.height_mm = (p.height_mm + shift).max(0.0);
            p.low_mm = (p.height_mm - half).max(0.0);
            p.high_mm = p.height_mm + half;
        }
        line.height_mm = (line.height_mm + shift).max(0.0);
        Self::Line(line)
    }

    /// The line, if there is one.
    #[must_use]
    pub const fn line(&self) -> Option<&Line> {
        match self {
            Self::Line(line) => Some(line),
            Self::None { .. } => None,
        }
    }
}

/// Share of the blade that must carry a line for it to count as one.
const ENOUGH: f64 = 0.5;
/// The line is smoothed over this for its course, mm.
const COURSE_MM: f64 = 36.0;
/// How far off the simulated line is before any record: one standard deviation, mm.
const UNKNOWN_MM: f64 = 1.6;
/// A wide band has no sharp place: this share of it adds to the doubt.
const BAND_SHARE: f64 = 0.2;

/// Half of the 90 % interval of a line's height, mm.
fn spread_mm(band_mm: f64, deviation_mm: f64) -> f64 {
    crate::interval::NINETY * deviation_mm.hypot(BAND_SHARE * band_mm)
}

/// What a column shows from the edge up.
enum Column {
    /// Martensite to the spine.
    Through,
    /// Not even the edge.
    Soft,
    /// Height of the line and width of its band, mm.
    Line(f64, f64),
}

/// Height above the edge where the share hardened falls through `level`, mm; None when it never does.
fn height_of(shares: &[(f64, f64)], level: f64) -> Option<f64> {
    let i = shares.iter().position(|s| s.1 < level)?;
    if i == 0 {
        return Some(0.0);
    }
    let ((y0, s0), (y1, s1)) = (shares[i - 1], shares[i]);
    Some(y0 + (y1 - y0) * (s0 - level) / (s0 - s1))
}

fn column(q: &Quenched, i: usize) -> Option<Column> {
    let (edge, spine) = q.grid.sections[i]?;
    let shares: Vec<(f64, f64)> = (0..q.grid.rows)
        .map(|j| (j, i * q.grid.rows + j))
        .filter(|(_, k)| q.grid.thickness_mm[*k] > 0.0)
        .map(|(j, k)| (q.grid.y_mm(j) - edge, q.hardened(k)))
        .collect();
    if shares.len() < 2 {
        return None;
    }
    let Some(height) = height_of(&shares, 0.5) else {
        return Some(Column::Through);
    };
    if height <= 0.0 {
        return Some(Column::Soft);
    }
    let low = height_of(&shares, 0.9).unwrap_or(height);
    let high = height_of(&shares, 0.1).unwrap_or(spine - edge);
    Some(Column::Line(height, high - low))
}

/// Reads the line off a quench. `length_mm` is the blade from heel to tip.
#[must_use]
pub fn hamon(q: &Quenched, length_mm: f64) -> Hamon {
    let (mut through, mut soft, mut all) = (0, 0, 0);
    let mut found: Vec<(f64, f64, f64)> = Vec::new();
    for i in 0..q.grid.columns {
        let x = q.grid.x_mm(i);
        if x < 0.02 * length_mm || x > 0.97 * length_mm {
            continue;
        }
        all += 1;
        match column(q, i) {
            Some(Column::Through) => through += 1,
            Some(Column::Soft) => soft += 1,
            Some(Column::Line(height, band)) => found.push((x, height, band)),
            None => all -= 1,
        }
    }
    if (found.len() as f64) < ENOUGH * f64::from(all) || found.len() < 3 {
        let none = if through >= soft {
            "It hardens right through to the spine: nothing soft for a line to border on."
        } else {
            "Even the edge stays soft: this quench is too slow for the steel."
        };
        return Hamon::None {
            none: none.to_owned(),
        };
    }
    let mut bands: Vec<f64> = found.iter().map(|f| f.2).collect();
    bands.sort_by(f64::total_cmp);
    let band_mm = bands[bands.len() / 2];
    let deviation = spread_mm(band_mm, UNKNOWN_MM);
    let course = |x: f64| {
        let near = found.iter().filter(|f| (f.0 - x).abs() <= 0.5 * COURSE_MM);
        let (n, sum) = near.fold((0.0, 0.0), |(n, s), f| (n + 1.0, s + f.1));
        sum / f64::max(n, 1.0)
    };
    let n = found.len() as f64;
    let departs = found
        .iter()
        .map(|f| (f.1 - course(f.0)).powi(2))
        .sum::<f64>()
        / n;
    Hamon::Line(Line {
        height_mm: found.iter().map(|f| f.1).sum::<f64>() / n,
        points: found
            .iter()
            .map(|f| LinePoint {
                x_mm: f.0,
                height_mm: f.1,
                low_mm: (f.1 - deviation).max(0.0),
                high_mm: f.1 + deviation,
            })
            .collect(),
        band_mm,
        liveliness: departs.sqrt(),
        learned_mm: 0.0,
        learned_wider: 1.0,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_line_is_found_between_cells() {
        let shares = [(1.0, 1.0), (2.0, 0.9), (3.0, 0.3), (4.0, 0.0)];
        assert!((height_of(&shares, 0.5).unwrap() - (2.0 + 0.4 / 0.6)).abs() < 1e-12);
        assert_eq!(height_of(&[(1.0, 0.2), (2.0, 0.1)], 0.5), Some(0.0));
        assert_eq!(height_of(&[(1.0, 0.9), (2.0, 0.8)], 0.5), None);
    }
}
