//! The hamon: where, going up from the edge, martensite gives way to pearlite.

use crate::simulation::quench::Quenched;
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
    /// The simulation shows none here: it is where the shop found one on blades like this.
    #[serde(default)]
    pub unseen: bool,
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

/// Why there is no line.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum NoLine {
    /// It never came above Ac1: nothing hardens.
    NeverHot {
        /// Ac1, °C.
        ac1_c: f64,
    },
    /// It hardens right through to the spine.
    HardensThrough {},
    /// Even the edge stays soft.
    StaysSoft {},
    /// Too little of its length carries a line. Shares of the length, 0 to 1.
    TooShort {
        /// Stays soft to the edge.
        soft_share: f64,
        /// Hardens right through.
        through_share: f64,
        /// Carries a line.
        line_share: f64,
    },
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
        /// Why.
        none: NoLine,
    },
}

impl Hamon {
    /// The line, if there is one.
    #[must_use]
    pub const fn line(&self) -> Option<&Line> {
        match self {
            Self::Line(line) => Some(line),
            Self::None { .. } => None,
        }
    }
}

/// What one column of a quenched blade shows from the edge up.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Course {
    /// Martensite to the spine.
    Through,
    /// Not even the edge.
    Soft,
    /// A line.
    Line {
        /// Above the edge, mm.
        height_mm: f64,
        /// From 90 to 10 % martensite, mm.
        band_mm: f64,
    },
}

/// One column of a quenched blade.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Column {
    /// From the heel, mm.
    pub x_mm: f64,
    /// From edge to spine, mm.
    pub section_mm: f64,
    /// What it shows.
    pub course: Course,
}

/// How records move a line.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Moved {
    /// How much higher it comes out than simulated, mm.
    pub by_mm: f64,
    /// What is left unknown of that, one standard deviation, mm, the scatter of the band aside.
    pub deviation_mm: f64,
    /// How many times as wide its band is.
    pub wider: f64,
    /// Where the simulation shows none: how much nearer to the edge (below zero) or the spine it was found,
    /// as a share of the section.
    pub unseen: f64,
    /// What is left unknown of that, one standard deviation.
    pub unseen_deviation: f64,
}

impl Default for Moved {
    /// Nothing was recorded.
    fn default() -> Self {
        Self {
            by_mm: 0.0,
            deviation_mm: UNKNOWN_MM,
            wider: 1.0,
            unseen: 0.0,
            unseen_deviation: 0.0,
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
    crate::quantity::interval::NINETY * deviation_mm.hypot(BAND_SHARE * band_mm)
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

fn course(q: &Quenched, i: usize, (edge, spine): (f64, f64)) -> Option<Course> {
    let shares: Vec<(f64, f64)> = (0..q.grid.rows)
        .map(|j| (j, i * q.grid.rows + j))
        .filter(|(_, k)| q.grid.thickness_mm[*k] > 0.0)
        .map(|(j, k)| (q.grid.y_mm(j) - edge, q.hardened(k)))
        .collect();
    if shares.len() < 2 {
        return None;
    }
    let Some(height) = height_of(&shares, 0.5) else {
        return Some(Course::Through);
    };
    if height <= 0.0 {
        return Some(Course::Soft);
    }
    let low = height_of(&shares, 0.9).unwrap_or(height);
    let high = height_of(&shares, 0.1).unwrap_or(spine - edge);
    Some(Course::Line {
        height_mm: height,
        band_mm: high - low,
    })
}

/// Reads every column of a quench but those at the very ends. `length_mm` is the blade from heel to tip.
#[must_use]
pub fn columns(q: &Quenched, length_mm: f64) -> Vec<Column> {
    (0..q.grid.columns)
        .filter_map(|i| {
            let x_mm = q.grid.x_mm(i);
            let section = q.grid.sections[i]?;
            let inside = (0.02 * length_mm..=0.97 * length_mm).contains(&x_mm);
            let course = course(q, i, section).filter(|_| inside)?;
            Some(Column {
                x_mm,
                section_mm: section.1 - section.0,
                course,
            })
        })
        .collect()
}

/// Height of the line across a strip one cell wide, mm above its edge: none of it where even the edge stays soft, all of it
/// where it hardens through.
#[must_use]
pub fn strip_mm(q: &Quenched) -> Option<f64> {
    let column = (0..q.grid.columns).find(|i| q.grid.sections[*i].is_some())?;
    let (edge, spine) = q.grid.sections[column]?;
    Some(match course(q, column, (edge, spine))? {
        Course::Through => spine - edge,
        Course::Soft => 0.0,
        Course::Line { height_mm, .. } => height_mm,
    })
}

/// The line that the simulation alone shows, or why there is none.
#[must_use]
pub fn hamon(q: &Quenched, length_mm: f64) -> Hamon {
    line_of(&columns(q, length_mm), Moved::default())
}

/// A share that records move an unseen line by counts from here on: less is the scatter of one blade.
const UNSEEN_FROM: f64 = 0.08;
/// Width of the band where no simulation shows one, mm.
const UNSEEN_BAND_MM: f64 = 4.0;

/// The column as records correct it.
fn corrected(column: Column, moved: Moved) -> Course {
    let within = |height_mm: f64, band_mm: f64| {
        if height_mm <= 0.0 {
            Course::Soft
        } else if height_mm >= column.section_mm {
            Course::Through
        } else {
            Course::Line { height_mm, band_mm }
        }
    };
    match column.course {
        Course::Line { height_mm, band_mm } => {
            within(height_mm + moved.by_mm, band_mm * moved.wider)
        }
        Course::Through if moved.unseen <= -UNSEEN_FROM => {
            within((1.0 + moved.unseen) * column.section_mm, UNSEEN_BAND_MM)
        }
        Course::Soft if moved.unseen >= UNSEEN_FROM => {
            within(moved.unseen * column.section_mm, UNSEEN_BAND_MM)
        }
        other => other,
    }
}

/// Longest stretch that clay keeps soft down to the edge and that still counts as a leg of the line, mm.
const LEG_MM: f64 = 15.0;

/// Under a leg that keeps even the edge soft the line runs down to the edge and up again: soft columns between two
/// with a line carry it at no height.
fn reach_the_edge(courses: &mut [(Column, Course)]) {
    let mut from = 0;
    for stretch in courses
        .to_vec()
        .chunk_by(|a, b| (a.1 == Course::Soft) == (b.1 == Course::Soft))
    {
        let end = from + stretch.len();
        let wide = stretch[stretch.len() - 1].0.x_mm - stretch[0].0.x_mm;
        let before = from.checked_sub(1).map(|i| courses[i].1);
        let after = courses.get(end).map(|c| c.1);
        if let (Course::Soft, Some(Course::Line { band_mm, .. }), Some(Course::Line { .. })) =
            (stretch[0].1, before, after)
            && wide <= LEG_MM
        {
            let height_mm = 0.0;
            for column in &mut courses[from..end] {
                column.1 = Course::Line { height_mm, band_mm };
            }
        }
        from = end;
    }
}

/// Mean of `of` over those places that are within reach of `x`.
fn course_mm(found: &[(f64, f64)], x: f64) -> f64 {
    let near = found.iter().filter(|f| (f.0 - x).abs() <= 0.5 * COURSE_MM);
    let (n, sum) = near.fold((0.0, 0.0), |(n, s), f| (n + 1.0, s + f.1));
    sum / f64::max(n, 1.0)
}

/// The line that columns show once records have corrected them, or why there is none.
#[must_use]
pub fn line_of(columns: &[Column], moved: Moved) -> Hamon {
    let mut courses: Vec<(Column, Course)> =
        columns.iter().map(|c| (*c, corrected(*c, moved))).collect();
    reach_the_edge(&mut courses);
    let found: Vec<(f64, f64)> = courses
        .iter()
        .filter_map(|(column, course)| match course {
            Course::Line { height_mm, .. } => Some((column.x_mm, *height_mm)),
            _ => None,
        })
        .collect();
    if (found.len() as f64) < ENOUGH * courses.len() as f64 || found.len() < 3 {
        return Hamon::None {
            none: why_none(&courses),
        };
    }
    let mut bands: Vec<f64> = courses
        .iter()
        .filter_map(|(_, course)| match course {
            Course::Line { band_mm, .. } => Some(*band_mm),
            _ => None,
        })
        .collect();
    bands.sort_by(f64::total_cmp);
    let band_mm = bands[bands.len() / 2];
    let seen = columns
        .iter()
        .filter(|c| matches!(c.course, Course::Line { .. }))
        .count();
    let unseen = 2 * seen < found.len();
    let deviation = if unseen {
        let sections: f64 = columns.iter().map(|c| c.section_mm).sum();
        moved.unseen_deviation * sections / columns.len() as f64
    } else {
        moved.deviation_mm
    };
    let half = spread_mm(band_mm, deviation);
    let n = found.len() as f64;
    let departs = found
        .iter()
        .map(|f| (f.1 - course_mm(&found, f.0)).powi(2))
        .sum::<f64>()
        / n;
    Hamon::Line(Line {
        height_mm: found.iter().map(|f| f.1).sum::<f64>() / n,
        points: found
            .iter()
            .map(|f| LinePoint {
                x_mm: f.0,
                height_mm: f.1,
                low_mm: (f.1 - half).max(0.0),
                high_mm: f.1 + half,
            })
            .collect(),
        band_mm,
        liveliness: departs.sqrt(),
        learned_mm: if unseen { 0.0 } else { moved.by_mm },
        learned_wider: if unseen { 1.0 } else { moved.wider },
        unseen,
    })
}

/// Why there is no line, as the columns have it.
fn why_none(courses: &[(Column, Course)]) -> NoLine {
    let share = |matches: fn(&Course) -> bool| {
        let n = courses.iter().filter(|(_, course)| matches(course)).count();
        n as f64 / courses.len().max(1) as f64
    };
    let through_share = share(|c| matches!(c, Course::Through));
    let soft_share = share(|c| matches!(c, Course::Soft));
    if through_share >= NEARLY_ALL {
        NoLine::HardensThrough {}
    } else if soft_share >= NEARLY_ALL {
        NoLine::StaysSoft {}
    } else {
        NoLine::TooShort {
            soft_share,
            through_share,
            line_share: 1.0 - soft_share - through_share,
        }
    }
}

/// From this share of the length on the rest is not worth a word.
const NEARLY_ALL: f64 = 0.95;

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::clay::{Band, Clay, ClayDraft, Face, Stroke};
    use crate::material::medium::Medium;
    use crate::material::steel::Steel;
    use crate::process::step::Stage;
    use crate::process::workpiece::Workpiece;
    use crate::quantity::units::Kelvins;
    use crate::simulation::heat::Heat;
    use crate::simulation::physics::tests::nominal;
    use crate::simulation::quench::quench;

    #[test]
    fn the_line_is_found_between_cells() {
        let shares = [(1.0, 1.0), (2.0, 0.9), (3.0, 0.3), (4.0, 0.0)];
        assert!((height_of(&shares, 0.5).unwrap() - (2.0 + 0.4 / 0.6)).abs() < 1e-12);
        assert_eq!(height_of(&[(1.0, 0.2), (2.0, 0.1)], 0.5), Some(0.0));
        assert_eq!(height_of(&[(1.0, 0.9), (2.0, 0.8)], 0.5), None);
    }

    /// A blade of twenty columns, 30 mm wide.
    fn blade(course: impl Fn(usize) -> Course) -> Vec<Column> {
        (0..20)
            .map(|i| Column {
                x_mm: 10.0 * i as f64,
                section_mm: 30.0,
                course: course(i),
            })
            .collect()
    }

    fn none(columns: &[Column]) -> NoLine {
        match line_of(columns, Moved::default()) {
            Hamon::None { none } => none,
            Hamon::Line(line) => panic!("{line:?}"),
        }
    }

    #[test]
    fn why_there_is_no_line_is_what_the_columns_show() {
        assert_eq!(none(&blade(|_| Course::Through)), NoLine::HardensThrough {});
        assert_eq!(none(&blade(|_| Course::Soft)), NoLine::StaysSoft {});
        // Only the tip went in, or clay lies on part of the edge: neither sentence above is true.
        let tip = none(&blade(|i| {
            if i < 12 {
                Course::Soft
            } else {
                Course::Through
            }
        }));
        let NoLine::TooShort {
            soft_share,
            through_share,
            line_share,
        } = tip
        else {
            panic!("{tip:?}")
        };
        assert!((soft_share - 0.6).abs() < 0.01 && (through_share - 0.4).abs() < 0.01);
        assert!(line_share.abs() < 1e-9);
        let line = Course::Line {
            height_mm: 9.0,
            band_mm: 3.0,
        };
        let some = none(&blade(|i| if i < 12 { Course::Through } else { line }));
        assert!(
            matches!(some, NoLine::TooShort { line_share, .. } if (line_share - 0.4).abs() < 0.01),
            "{some:?}"
        );
    }

    /// W2 or 1075 of 180 mm with clay above 14 mm, and legs of it down to 2 mm every 20 mm.
    fn legged(steel: &str, medium: Medium, width_mm: f64, thickness_mm: f64) -> Vec<Column> {
        let steel = Steel::built_in(steel).unwrap();
        let leg = |i: i32| Stroke {
            points: vec![
                [15.0 + 20.0 * f64::from(i), 14.0],
                [15.0 + 20.0 * f64::from(i), 2.0],
            ],
            width_mm,
            thickness_mm,
        };
        let face = Face {
            band: Some(Band {
                from_edge_mm: 14.0,
                thickness_mm: 3.0,
            }),
            strokes: (0..8).map(leg).collect(),
            ..Face::default()
        };
        let draft = ClayDraft {
            left: face,
            ..ClayDraft::default()
        };
        let work = Workpiece {
            clay: Clay::parse(&draft).unwrap(),
            ..Workpiece::plain(&crate::simulation::physics::tests::blade())
        };
        let plan = nominal(steel, "water");
        let heat = Heat::new(&work, &plan, steel, Kelvins::ZERO);
        let stages = [Stage::until_cold(medium)];
        let setup = heat.whole(&work.form, &work.clay, &stages, 2.0);
        columns(&quench(setup, None).unwrap(), 180.0)
    }

    /// How far the line falls from between the legs to under them, mm; none without a line.
    fn falls(columns: &[Column]) -> Option<f64> {
        let hamon = line_of(columns, Moved::default());
        let within = |from: f64, to: f64| {
            let points = hamon.line()?.points.iter();
            let near = points.filter(|p| (from..to).contains(&(p.x_mm.rem_euclid(20.0))));
            let (n, sum) = near.fold((0.0, 0.0), |(n, s), p| (n + 1.0, s + p.height_mm));
            Some(sum / n)
        };
        Some(within(3.0, 8.0)? - within(13.5, 16.5)?)
    }

    #[test]
    fn legs_show_in_the_line_as_far_as_the_steel_beside_lets_them() {
        let fall =
            |steel, medium, width, thick| falls(&legged(steel, medium, width, thick)).unwrap();
        // A hair of clay hides nothing; eight millimetres do, down to the edge where oil is slow enough.
        assert!(fall("w2", Medium::Water, 1.6, 0.5) < 1.0);
        let (narrow, wide) = (
            fall("w2", Medium::Water, 5.0, 2.0),
            fall("w2", Medium::Water, 8.0, 2.0),
        );
        assert!(narrow > 1.5 && wide > narrow + 2.0, "{narrow} {wide}");
        let oil = fall("1075", Medium::FastOil, 5.0, 2.0);
        assert!((4.0..12.0).contains(&oil), "{oil}");
        // Soft to the edge under each leg: the line runs down to it, and is one line still.
        let soft = legged("w2", Medium::FastOil, 5.0, 2.0);
        assert!(soft.iter().any(|c| c.course == Course::Soft));
        let line = line_of(&soft, Moved::default());
        let line = line.line().unwrap();
        assert!(line.points.iter().any(|p| p.height_mm == 0.0));
        assert!(line.liveliness > 1.0, "{}", line.liveliness);
    }

    #[test]
    fn a_coat_that_keeps_a_third_of_the_edge_soft_is_no_leg() {
        let line = Course::Line {
            height_mm: 9.0,
            band_mm: 3.0,
        };
        let found = line_of(
            &blade(|i| {
                if (6..12).contains(&i) {
                    Course::Soft
                } else {
                    line
                }
            }),
            Moved::default(),
        );
        assert!(
            found
                .line()
                .unwrap()
                .points
                .iter()
                .all(|p| p.height_mm > 0.0)
        );
    }

    #[test]
    fn records_move_a_line_up_to_the_spine_and_off_it() {
        let line = blade(|_| Course::Line {
            height_mm: 20.0,
            band_mm: 3.0,
        });
        let by = |by_mm: f64| {
            let moved = Moved {
                by_mm,
                ..Moved::default()
            };
            line_of(&line, moved)
                .line()
                .map(|l| (l.height_mm, l.learned_mm))
        };
        assert_eq!(by(4.0), Some((24.0, 4.0)));
        assert_eq!(by(-21.0), None);
        assert_eq!(by(11.0), None);
    }

    #[test]
    fn a_line_that_only_the_records_know_is_shown_as_theirs() {
        let through = blade(|_| Course::Through);
        let with = |unseen: f64| {
            let moved = Moved {
                unseen,
                unseen_deviation: 0.1,
                ..Moved::default()
            };
            line_of(&through, moved)
        };
        assert!(with(-0.02).line().is_none());
        let found = with(-0.6);
        let line = found.line().unwrap();
        assert!(line.unseen && (line.height_mm - 12.0).abs() < 1e-9);
        assert!(line.points[3].high_mm - line.height_mm > 4.0);
    }
}
