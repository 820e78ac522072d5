//! A drawing at 1:1 for the bench, as SVG or PDF. Lengths in mm, y downwards.

use pdf_writer::types::LineCapStyle;
use pdf_writer::{Content, Finish, Name, Pdf, Rect, Ref, Str};
use std::fmt::Write as _;

/// One thing drawn.
#[derive(Debug, Clone, PartialEq)]
pub enum Mark {
    /// A line through points.
    Line {
        /// Places, mm.
        points: Vec<[f64; 2]>,
        /// Width of the pen, mm.
        pen: f64,
        /// Back to where it began.
        closed: bool,
        /// Broken: on and off, mm.
        dash: Option<(f64, f64)>,
    },
    /// A filled rectangle: left, top, width, height, mm; grey from 0 (black) to 1.
    Fill([f64; 4], f64),
    /// A text: where its base line begins, its height, mm.
    Text([f64; 2], f64, String),
}

/// A drawing of a size.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Sheet {
    /// Width, mm.
    pub width: f64,
    /// Height, mm.
    pub height: f64,
    /// What is on it; later things lie over earlier ones.
    pub marks: Vec<Mark>,
}

const POINTS_PER_MM: f64 = 72.0 / 25.4;
/// A4 lying, and what a printer leaves blank around it, mm.
const PAGE: (f64, f64) = (297.0, 210.0);
const MARGIN: f64 = 10.0;
/// How much neighbouring pages share, mm.
const OVERLAP: f64 = 15.0;

fn escape(text: &str) -> String {
    text.replace('&', "&amp;")
        .replace('<', "&lt;")
        .replace('>', "&gt;")
}

impl Sheet {
    /// As one SVG picture of its true size.
    #[must_use]
    pub fn svg(&self) -> String {
        let (w, h) = (self.width, self.height);
        let mut out = format!(
            "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w:.2}mm\" height=\"{h:.2}mm\" viewBox=\"0 0 {w:.2} {h:.2}\">"
        );
        for mark in &self.marks {
            // Writing to a String cannot fail.
            let _ = match mark {
                Mark::Fill([x, y, w, h], grey) => {
                    let g = (grey.clamp(0.0, 1.0) * 255.0).round();
                    write!(
                        out,
                        "<rect x=\"{x:.2}\" y=\"{y:.2}\" width=\"{w:.2}\" height=\"{h:.2}\" fill=\"rgb({g},{g},{g})\"/>"
                    )
                }
                Mark::Text([x, y], size, text) => write!(
                    out,
                    "<text x=\"{x:.2}\" y=\"{y:.2}\" font-family=\"Helvetica, Arial, sans-serif\" font-size=\"{size:.2}\">{}</text>",
                    escape(text)
                ),
                Mark::Line {
                    points,
                    pen,
                    closed,
                    dash,
                } => {
                    let mut d = String::new();
                    for (i, [x, y]) in points.iter().enumerate() {
                        let _ = write!(d, "{}{x:.2} {y:.2}", if i == 0 { 'M' } else { 'L' });
                    }
                    if *closed {
                        d.push('Z');
                    }
                    let dash = dash.map_or(String::new(), |(on, off)| {
                        format!(" stroke-dasharray=\"{on} {off}\"")
                    });
                    write!(
                        out,
                        "<path d=\"{d}\" fill=\"none\" stroke=\"black\" stroke-width=\"{pen}\"{dash}/>"
                    )
                }
            };
        }
        out.push_str("</svg>");
        out
    }

    /// How many pages it takes across.
    fn pages(&self) -> usize {
        let inside = PAGE.0 - 2.0 * MARGIN;
        if self.width <= inside {
            return 1;
        }
        let step = inside - OVERLAP;
        1 + ((self.width - inside) / step).ceil() as usize
    }

    /// As pages of A4 lying, side by side when it is longer than one, sharing a strip with marks to
    /// lay them together by.
    #[must_use]
    pub fn pdf(&self) -> Vec<u8> {
        let mut pdf = Pdf::new();
        let (catalog, tree, font) = (Ref::new(1), Ref::new(2), Ref::new(3));
        let pages = self.pages();
        let page_of = |i: usize| Ref::new(4 + 2 * i32::try_from(i).unwrap_or(0));
        let content_of = |i: usize| Ref::new(5 + 2 * i32::try_from(i).unwrap_or(0));
        pdf.catalog(catalog).pages(tree);
        pdf.pages(tree)
            .kids((0..pages).map(page_of))
            .count(i32::try_from(pages).unwrap_or(1));
        pdf.type1_font(font).base_font(Name(b"Helvetica"));
        let pt = |mm: f64| (mm * POINTS_PER_MM) as f32;
        for i in 0..pages {
            let mut page = pdf.page(page_of(i));
            page.media_box(Rect::new(0.0, 0.0, pt(PAGE.0), pt(PAGE.1)));
            page.parent(tree);
            page.contents(content_of(i));
            page.resources().fonts().pair(Name(b"F"), font);
            page.finish();
            let left = i as f64 * (PAGE.0 - 2.0 * MARGIN - OVERLAP);
            pdf.stream(content_of(i), &self.page(left, i, pages));
        }
        pdf.finish()
    }

    /// The part that begins `left` mm from the left, as the content of page `i`.
    fn page(&self, left: f64, i: usize, pages: usize) -> Vec<u8> {
        let pt = |mm: f64| (mm * POINTS_PER_MM) as f32;
        let x = |mm: f64| pt(MARGIN + mm - left);
        let y = |mm: f64| pt(PAGE.1 - MARGIN - mm);
        let mut c = Content::new();
        c.set_line_cap(LineCapStyle::RoundCap);
        c.save_state();
        c.rect(
            pt(MARGIN),
            pt(MARGIN),
            pt(PAGE.0 - 2.0 * MARGIN),
            pt(PAGE.1 - 2.0 * MARGIN),
        );
        c.clip_nonzero();
        c.end_path();
        for mark in &self.marks {
            match mark {
                Mark::Fill([fx, fy, w, h], grey) => {
                    c.set_fill_gray(*grey as f32);
                    c.rect(x(*fx), y(fy + h), pt(*w), pt(*h));
                    c.fill_nonzero();
                }
                Mark::Line {
                    points,
                    pen,
                    closed,
                    dash,
                } => {
                    c.set_line_width(pt(*pen));
                    match dash {
                        Some((on, off)) => c.set_dash_pattern([pt(*on), pt(*off)], 0.0),
                        None => c.set_dash_pattern([], 0.0),
                    };
                    for (k, [px, py]) in points.iter().enumerate() {
                        if k == 0 {
                            c.move_to(x(*px), y(*py));
                        } else {
                            c.line_to(x(*px), y(*py));
                        }
                    }
                    if *closed {
                        c.close_path();
                    }
                    c.stroke();
                }
                Mark::Text([tx, ty], size, text) => {
                    write_text(&mut c, x(*tx), y(*ty), pt(*size), text);
                }
            }
        }
        c.restore_state();
        if pages > 1 {
            let words = format!(
                "Page {} of {pages}: lay the crosses over each other.",
                i + 1
            );
            write_text(&mut c, pt(MARGIN), pt(5.0), pt(3.0), &words);
            // A cross in the middle of each strip that two pages share.
            c.set_line_width(pt(0.2));
            let inside = PAGE.0 - 2.0 * MARGIN;
            for at in [
                (i > 0).then_some(0.5 * OVERLAP),
                (i + 1 < pages).then_some(inside - 0.5 * OVERLAP),
            ]
            .into_iter()
            .flatten()
            {
                for up in [30.0, 170.0] {
                    let (cx, cy) = (pt(MARGIN + at), pt(up));
                    c.move_to(cx - pt(4.0), cy).line_to(cx + pt(4.0), cy);
                    c.move_to(cx, cy - pt(4.0)).line_to(cx, cy + pt(4.0));
                    c.stroke();
                }
            }
        }
        c.finish().to_vec()
    }
}

fn write_text(c: &mut Content, x: f32, y: f32, size: f32, text: &str) {
    // The built-in font knows the western letters only.
    let bytes: Vec<u8> = text
        .chars()
        .map(|ch| u8::try_from(u32::from(ch)).unwrap_or(b'?'))
        .collect();
    c.set_fill_gray(0.0);
    c.begin_text();
    c.set_font(Name(b"F"), size);
    c.next_line(x, y);
    c.show(Str(&bytes));
    c.end_text();
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn sheet(width: f64) -> Sheet {
        Sheet {
            width,
            height: 100.0,
            marks: vec![
                Mark::Fill([1.0, 2.0, 3.0, 4.0], 0.5),
                Mark::Line {
                    points: vec![[0.0, 10.0], [100.0, 10.0]],
                    pen: 0.3,
                    closed: false,
                    dash: Some((2.0, 1.0)),
                },
                Mark::Text([5.0, 5.0], 4.0, "K-1 <hook> & more".to_owned()),
            ],
        }
    }

    #[test]
    fn svg_is_of_its_true_size_and_escapes_what_was_typed() {
        let svg = sheet(200.0).svg();
        assert!(svg.contains("width=\"200.00mm\""));
        assert!(svg.contains("K-1 &lt;hook&gt; &amp; more"));
        assert!(svg.contains("M0.00 10.00L100.00 10.00"));
    }

    #[rstest]
    #[case(200.0, 1)]
    #[case(277.0, 1)]
    #[case(300.0, 2)]
    #[case(900.0, 4)]
    fn a_long_blade_takes_more_pages(#[case] width: f64, #[case] pages: usize) {
        let sheet = sheet(width);
        assert_eq!(sheet.pages(), pages);
        let pdf = sheet.pdf();
        assert!(pdf.starts_with(b"%PDF"));
        let text = String::from_utf8_lossy(&pdf).into_owned();
        assert_eq!(text.matches("/Type /Page\n").count(), pages, "{text}");
        // 100 mm are 283.46 points.
        assert!(
            text.contains("28.346457") || text.contains("311.8"),
            "{text}"
        );
    }
}
