//! The clay of a blade at 1:1: both faces, the wanted line, and a ruler to check the printer with.

use crate::sheet::{Mark, Sheet};
use crate::words::LengthUnit;
use vatten_core::geometry::clay::Clay;
use vatten_core::geometry::form::{Form, Grid};

/// Blank around the drawing, mm.
const BORDER: f64 = 4.0;
/// Cells of clay, mm.
const CELL_MM: f64 = 1.0;

/// Grey of a thickness: the thicker the darker, light enough to draw over.
fn grey(thickness_mm: f64) -> f64 {
    (0.9 - 0.09 * thickness_mm).clamp(0.35, 0.9)
}

fn line(points: Vec<[f64; 2]>, pen: f64) -> Mark {
    Mark::Line {
        points,
        pen,
        closed: false,
        dash: None,
    }
}

/// Draws it. `title` stands on top; `wanted` is the line by x, as height above the edge, mm. What is written on
/// it is in `unit`.
#[must_use]
pub fn clay_sheet(
    title: &str,
    form: &Form,
    clay: &Clay,
    wanted: &[[f64; 2]],
    unit: LengthUnit,
) -> Sheet {
    let outline = form.outline();
    let (start, tip) = (outline.start_mm(), outline.tip_mm());
    let (low, high) = outline.height_mm();
    let grid = Grid::over(form, CELL_MM);
    let faces = clay.on(&grid);
    let mut marks = vec![Mark::Text([BORDER, BORDER + 4.0], 4.5, title.to_owned())];
    let width = (tip - start).max(110.0) + 2.0 * BORDER;

    // The ruler.
    let floor = BORDER + 14.0;
    let ruler = unit.ruler();
    let end = BORDER + ruler.length_mm;
    marks.push(line(vec![[BORDER, floor], [end, floor]], 0.3));
    for i in 0..=ruler.parts {
        let x = BORDER + ruler.length_mm * f64::from(i) / f64::from(ruler.parts);
        let tick = if i % ruler.tall_every == 0 { 4.0 } else { 2.0 };
        marks.push(line(vec![[x, floor], [x, floor - tick]], 0.3));
    }
    let below = [BORDER, floor + 4.5];
    marks.push(Mark::Text(below, 3.2, unit.measure_it()));

    let mut top = floor + 14.0;
    for (name, cells, mirrored) in [
        ("Right face", &faces[1], false),
        ("Left face", &faces[0], true),
    ] {
        let x = |mm: f64| BORDER + if mirrored { tip - mm } else { mm - start };
        let y = |mm: f64| top + 5.0 + (high - mm);
        marks.push(Mark::Text([BORDER, top], 3.6, name.to_owned()));
        let mut shown: Vec<f64> = Vec::new();
        for i in 0..grid.columns {
            // Neighbours of one thickness in a column are one rectangle.
            let mut j = 0;
            while j < grid.rows {
                let t = cells[i * grid.rows + j];
                let from = j;
                while j < grid.rows && (cells[i * grid.rows + j] - t).abs() < 0.01 {
                    j += 1;
                }
                if t <= 0.0 {
                    continue;
                }
                let (a, b) = (grid.x_mm(i) - 0.5 * grid.step_mm, grid.step_mm);
                let upper = grid.y0_mm + j as f64 * grid.step_mm;
                let left = if mirrored { x(a + b) } else { x(a) };
                let tall = (j - from) as f64 * grid.step_mm;
                marks.push(Mark::Fill([left, y(upper), b + 0.05, tall], grey(t)));
                if shown.len() < 6 && !shown.iter().any(|s| (s - t).abs() < 0.15) {
                    shown.push(t);
                }
            }
        }
        let around = outline
            .points()
            .iter()
            .map(|p| [x(p[0]), y(p[1])])
            .collect();
        marks.push(Mark::Line {
            points: around,
            pen: 0.35,
            closed: true,
            dash: None,
        });
        let dashed: Vec<[f64; 2]> = wanted
            .iter()
            .filter_map(|[at, height]| {
                let (edge, _) = outline.section(*at)?;
                Some([x(*at), y(edge + height)])
            })
            .collect();
        if dashed.len() > 1 {
            marks.push(Mark::Line {
                points: dashed,
                pen: 0.3,
                closed: false,
                dash: Some((2.5, 1.5)),
            });
        }
        // The heel, to lay the blade on by.
        marks.push(line(
            vec![[x(0.0), y(low) + 2.0], [x(0.0), y(low) + 6.0]],
            0.3,
        ));
        marks.push(Mark::Text(
            [x(0.0) + 1.0, y(low) + 6.0],
            3.0,
            "heel".to_owned(),
        ));
        shown.sort_by(f64::total_cmp);
        let key = y(low) + 11.0;
        for (n, t) in shown.iter().enumerate() {
            let at = BORDER + 26.0 * n as f64;
            marks.push(Mark::Fill([at, key - 3.0, 6.0, 3.6], grey(*t)));
            marks.push(Mark::Text([at + 7.5, key], 3.2, unit.length(*t)));
        }
        top = key + 12.0;
    }
    let words = if wanted.is_empty() {
        "Lay the left face on as printed: it is mirrored."
    } else {
        "Lay the left face on as printed: it is mirrored. The broken line is the one wanted."
    };
    marks.push(Mark::Text([BORDER, top], 3.2, words.to_owned()));
    Sheet {
        width,
        height: top + BORDER,
        marks,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use vatten_core::geometry::blade::{Blade, BladeDraft};

    #[test]
    fn both_faces_are_drawn_to_scale_and_the_left_mirrored() {
        let blade = Blade::parse(&BladeDraft {
            length_mm: Some(180.0),
            width_mm: Some(30.0),
            spine_mm: Some(4.0),
            edge_mm: Some(0.8),
            ..BladeDraft::default()
        })
        .unwrap();
        let form = Form::from_blade(&blade);
        let sheet = clay_sheet(
            "K-1",
            &form,
            &Clay::band(12.0, 2.0),
            &[[10.0, 9.0], [150.0, 10.0]],
            LengthUnit::Millimetre,
        );
        let outlines: Vec<_> = sheet
            .marks
            .iter()
            .filter_map(|m| match m {
                Mark::Line {
                    points,
                    closed: true,
                    ..
                } => Some(points),
                _ => None,
            })
            .collect();
        assert_eq!(outlines.len(), 2);
        let span = |points: &Vec<[f64; 2]>| {
            let xs = points.iter().map(|p| p[0]);
            xs.clone().fold(f64::MIN, f64::max) - xs.fold(f64::MAX, f64::min)
        };
        let long = form.outline().tip_mm() - form.outline().start_mm();
        assert!((span(outlines[0]) - long).abs() < 1e-9);
        assert!((span(outlines[1]) - long).abs() < 1e-9);
        // The first point lies at the tang: left on the one, right on the other.
        assert!(outlines[0][0][0] < 40.0 && outlines[1][0][0] > 200.0);
        let texts = sheet.svg();
        for words in ["Right face", "Left face", "2.0 mm", "100 mm", "one wanted"] {
            assert!(texts.contains(words), "{words}");
        }
    }
}
