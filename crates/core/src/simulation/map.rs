//! A simulated quench as maps for drawing, compact: only the cells of the blade, whole numbers.

use crate::simulation::hamon::Hamon;
use crate::simulation::quench::Quenched;
use crate::simulation::warp::blade::{Moment as BendMoment, Station};
use serde::Serialize;

/// The cells of one column that lie on the blade.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Run {
    /// Row of the first.
    pub first: usize,
    /// How many.
    pub count: usize,
}

/// The blade at one moment.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Moment {
    /// Seconds from entering the first medium.
    pub time_s: f64,
    /// Temperature of each cell, °C.
    pub temperature_c: Vec<i16>,
    /// Martensite of each cell, percent.
    pub martensite_percent: Vec<u8>,
}

/// Maps of a quench. Cells run column by column from the tang to the tip, each from edge to
/// spine; `columns` says which cells of the grid they are.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Maps {
    /// Width of a cell, mm.
    pub step_mm: f64,
    /// Left border of the first column, mm.
    pub x0_mm: f64,
    /// Lower border of the first row, mm.
    pub y0_mm: f64,
    /// Rows of the grid.
    pub rows: usize,
    /// The cells of each column.
    pub columns: Vec<Run>,
    /// The grid was coarser than asked for, to keep within its limit.
    pub coarsened: bool,
    /// Thickness of each cell, hundredths of a millimetre.
    pub thickness_um10: Vec<u16>,
    /// How deep each cell is hardened from either face, hundredths of a millimetre; half its thickness when it is
    /// hard to the middle.
    pub case_um10: Vec<u16>,
    /// Hardness before tempering, tenths of HRC.
    pub hardness_tenths: Vec<u16>,
    /// Share hardened in the end, percent.
    pub hardened_percent: Vec<u8>,
    /// From the fire to cold.
    pub moments: Vec<Moment>,
    /// The line.
    pub hamon: Hamon,
    /// Sag towards the spine through the quench.
    pub bend_moments: Vec<BendMoment>,
    /// Where a crack would start, mm from the heel and above the edge there; none where next to nothing speaks for one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub crack_at_mm: Option<[f64; 2]>,
    /// Curvature along the blade: x (mm), towards the spine and sideways (1/m).
    pub curvature: Vec<[f64; 3]>,
    /// How long until cold, s.
    pub seconds: f64,
}

impl Maps {
    /// `stations` say how it bends in the end, `bend_moments` on the way; `hard_hrc` is the hardness, HRC, of what hardened fully where the blade is so many mm thick.
    #[must_use]
    pub fn new(
        q: &Quenched,
        hamon: Hamon,
        (stations, bend_moments): (&[Station], &[BendMoment]),
        hard_hrc: impl Fn(f64) -> f64,
    ) -> Self {
        let g = &q.grid;
        let cells: Vec<usize> = (0..g.thickness_mm.len())
            .filter(|k| g.thickness_mm[*k] > 0.0)
            .collect();
        let columns = (0..g.columns)
            .map(|i| {
                let column = &g.thickness_mm[i * g.rows..(i + 1) * g.rows];
                Run {
                    first: column.iter().position(|t| *t > 0.0).unwrap_or(0),
                    count: column.iter().filter(|t| **t > 0.0).count(),
                }
            })
            .collect();
        let percent = |share: f64| (100.0 * share).round().clamp(0.0, 100.0) as u8;
        let degrees = |t: f32| t.round().clamp(-300.0, 2000.0) as i16;
        Self {
            step_mm: g.step_mm,
            x0_mm: g.x0_mm,
            y0_mm: g.y0_mm,
            rows: g.rows,
            columns,
            coarsened: g.coarsened,
            thickness_um10: cells
                .iter()
                .map(|k| (100.0 * g.thickness_mm[*k]).round() as u16)
                .collect(),
            case_um10: cells
                .iter()
                .map(|k| {
                    let half_mm = 0.5 * g.thickness_mm[*k];
                    (100.0 * half_mm * q.through(*k).case()).round() as u16
                })
                .collect(),
            hardness_tenths: cells
                .iter()
                .map(|k| {
                    let hrc = q.hrc(*k, hard_hrc(g.thickness_mm[*k]));
                    (10.0 * hrc).round().clamp(0.0, 700.0) as u16
                })
                .collect(),
            hardened_percent: cells.iter().map(|k| percent(q.hardened(*k))).collect(),
            moments: q
                .frames
                .iter()
                .map(|f| Moment {
                    time_s: (1000.0 * f.time_s).round() / 1000.0,
                    temperature_c: cells.iter().map(|k| degrees(f.temperature_c[*k])).collect(),
                    martensite_percent: cells
                        .iter()
                        .map(|k| percent(f64::from(f.martensite[*k])))
                        .collect(),
                })
                .collect(),
            hamon,
            bend_moments: bend_moments.to_vec(),
            crack_at_mm: None,
            curvature: stations
                .iter()
                .map(|s| [s.x_mm, s.curvature[0], s.curvature[1]])
                .collect(),
            seconds: q.seconds,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::steel::Steel;
    use crate::process::workpiece::Workpiece;
    use crate::quantity::units::Kelvins;
    use crate::simulation::hamon::hamon;
    use crate::simulation::heat::Heat;
    use crate::simulation::physics::stages;
    use crate::simulation::physics::tests::{blade, plan};
    use crate::simulation::quench::quench;

    #[test]
    fn the_maps_hold_the_blade_and_nothing_else() {
        let plan = plan(
            r#"[{"kind":"austenitize","temperature_c":795,"soak_s":480},{"kind":"quench","stages":[{"medium":"fast_oil"}]}]"#,
        );
        let steel = Steel::built_in("w2").unwrap();
        let (heat, work) = (
            Heat::new(&Workpiece::plain(&blade()), &plan, steel, Kelvins::ZERO),
            Workpiece::plain(&blade()),
        );
        let q = quench(
            heat.whole(&work.form, &work.clay, &stages(&plan), 3.0),
            None,
        )
        .unwrap();
        let line = hamon(&q, 180.0);
        let bent = [Station {
            x_mm: 90.0,
            curvature: [0.1, 0.0],
        }];
        let maps = Maps::new(&q, line, (&bent, &[]), |_| 66.0);
        let cells: usize = maps.columns.iter().map(|c| c.count).sum();
        assert_eq!(cells, q.grid.cells());
        assert!(maps.columns.iter().all(|c| c.first + c.count <= maps.rows));
        for moment in &maps.moments {
            assert_eq!(moment.temperature_c.len(), cells);
            assert_eq!(moment.martensite_percent.len(), cells);
        }
        assert!(maps.moments.windows(2).all(|w| w[0].time_s < w[1].time_s));
        assert!(
            maps.moments[0]
                .temperature_c
                .iter()
                .all(|t| (690..=795).contains(t))
        );
        assert!(maps.hardness_tenths.iter().any(|h| *h > 630));
        assert_eq!(maps.curvature, [[90.0, 0.1, 0.0]]);
        // W2 in oil: the edge is hard to the middle, the spine in part at most, and no place beyond its half.
        for (case, thick) in maps.case_um10.iter().zip(&maps.thickness_um10) {
            assert!(2 * case <= thick + 1, "{case} {thick}");
        }
        let column = maps.columns.len() / 2;
        let before: usize = maps.columns[..column].iter().map(|c| c.count).sum();
        let spine = before + maps.columns[column].count - 1;
        assert!(2 * maps.case_um10[before] + 1 >= maps.thickness_um10[before]);
        assert!(2 * maps.case_um10[spine] < maps.thickness_um10[spine]);
    }
}
