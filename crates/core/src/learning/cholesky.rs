//! Cholesky factor of a symmetric, positive definite matrix, by panels and on two cores: two thousand
//! records are factored in well under a second.

/// Columns worked on together.
const PANEL: usize = 48;
/// Below this many rows a second thread costs more than it brings.
const WORTH_A_THREAD: usize = 192;

/// L with K = L·Lᵀ.
#[derive(Debug, Clone, Default)]
pub struct Cholesky {
    n: usize,
    /// Row by row; what lies above the diagonal is of no meaning.
    rows: Vec<f64>,
}

/// Products of four rows with two rows.
fn tile(a: [&[f64]; 4], b: [&[f64]; 2]) -> [[f64; 2]; 4] {
    let n = b[0].len();
    let even = n & !1;
    let a = a.map(|row| &row[..n]);
    let b = b.map(|row| &row[..n]);
    let mut sums = [[[0.0_f64; 2]; 2]; 4];
    for k in (0..even).step_by(2) {
        for (sums, row) in sums.iter_mut().zip(&a) {
            for (sum, other) in sums.iter_mut().zip(&b) {
                sum[0] += row[k] * other[k];
                sum[1] += row[k + 1] * other[k + 1];
            }
        }
    }
    let mut out = [[0.0; 2]; 4];
    for i in 0..4 {
        for j in 0..2 {
            out[i][j] = sums[i][j][0] + sums[i][j][1];
            if even < n {
                out[i][j] += a[i][even] * b[j][even];
            }
        }
    }
    out
}

fn dot(a: &[f64], b: &[f64]) -> f64 {
    let mut sums = [0.0; 8];
    let (a8, b8) = (a.chunks_exact(8), b.chunks_exact(8));
    let rest: f64 = a8
        .remainder()
        .iter()
        .zip(b8.remainder())
        .map(|(x, y)| x * y)
        .sum();
    for (x, y) in a8.zip(b8) {
        for k in 0..8 {
            sums[k] += x[k] * y[k];
        }
    }
    rest + sums.iter().sum::<f64>()
}

/// Takes the columns before the panel out of the panel's columns, for some rows.
fn update(rows: &mut [f64], n: usize, panel: &[f64], at: usize, width: usize) {
    for group in rows.chunks_mut(4 * n) {
        let count = group.len() / n;
        for j in (0..width).step_by(2) {
            let two = width - j > 1;
            let products = {
                let row = |i: usize| {
                    let i = i.min(count - 1);
                    &group[i * n..i * n + at]
                };
                let other = |j: usize| &panel[j * at..(j + 1) * at];
                let b = [other(j), other(if two { j + 1 } else { j })];
                tile([row(0), row(1), row(2), row(3)], b)
            };
            for (i, product) in products.iter().enumerate().take(count) {
                group[i * n + at + j] -= product[0];
                if two {
                    group[i * n + at + j + 1] -= product[1];
                }
            }
        }
    }
}

/// Solves for the panel's columns of rows below its own.
fn below(rows: &mut [f64], n: usize, corner: &[f64], at: usize, width: usize) {
    for row in rows.chunks_mut(n) {
        for j in 0..width {
            let known = dot(&row[at..at + j], &corner[j * width..j * width + j]);
            row[at + j] = (row[at + j] - known) / corner[j * width + j];
        }
    }
}

/// Does `work` to rows, in two halves at once when there are many.
fn halves(rows: &mut [f64], n: usize, work: impl Fn(&mut [f64]) + Sync) {
    let count = rows.len() / n.max(1);
    if count < WORTH_A_THREAD {
        work(rows);
        return;
    }
    // Whole groups of four rows stay together.
    let (first, second) = rows.split_at_mut((count / 2 / 4 * 4) * n);
    std::thread::scope(|s| {
        s.spawn(|| work(first));
        work(second);
    });
}

impl Cholesky {
    /// Factors a symmetric matrix given row by row (only the lower half is read); None when it is not
    /// positive definite.
    #[must_use]
    pub fn factor(mut matrix: Vec<f64>, n: usize) -> Option<Self> {
        for at in (0..n).step_by(PANEL) {
            let width = PANEL.min(n - at);
            let panel: Vec<f64> = (at..at + width)
                .flat_map(|i| matrix[i * n..i * n + at].to_vec())
                .collect();
            if at > 0 {
                halves(&mut matrix[at * n..], n, |rows| {
                    update(rows, n, &panel, at, width);
                });
            }
            for j in 0..width {
                for i in j..width {
                    let (a, b) = ((at + i) * n + at, (at + j) * n + at);
                    let rest = matrix[a + j] - dot(&matrix[a..a + j], &matrix[b..b + j]);
                    if i == j {
                        if !(rest > 0.0 && rest.is_finite()) {
                            return None;
                        }
                        matrix[a + j] = rest.sqrt();
                    } else {
                        matrix[a + j] = rest / matrix[b + j];
                    }
                }
            }
            let corner: Vec<f64> = (at..at + width)
                .flat_map(|i| matrix[i * n + at..i * n + at + width].to_vec())
                .collect();
            halves(&mut matrix[(at + width) * n..], n, |rows| {
                below(rows, n, &corner, at, width);
            });
        }
        Some(Self { n, rows: matrix })
    }

    /// A row of L, up to the diagonal.
    #[must_use]
    pub fn row(&self, i: usize) -> &[f64] {
        &self.rows[i * self.n..=i * self.n + i]
    }

    /// L⁻¹·b.
    #[must_use]
    pub fn forward(&self, b: &[f64]) -> Vec<f64> {
        let mut x = Vec::with_capacity(self.n);
        for (i, b) in b.iter().enumerate().take(self.n) {
            let row = &self.rows[i * self.n..];
            x.push((b - dot(&row[..i], &x)) / row[i]);
        }
        x
    }

    /// K⁻¹·b.
    #[must_use]
    pub fn solve(&self, b: &[f64]) -> Vec<f64> {
        let mut x = self.forward(b);
        for i in (0..x.len()).rev() {
            let row = &self.rows[i * self.n..i * self.n + i + 1];
            x[i] /= row[i];
            let known = x[i];
            for (x, l) in x[..i].iter_mut().zip(row) {
                *x -= known * l;
            }
        }
        x
    }

    /// ln √det K.
    #[must_use]
    pub fn half_log_det(&self) -> f64 {
        (0..self.n).map(|i| self.rows[i * self.n + i].ln()).sum()
    }

    /// Columns of L⁻¹: each from its own place on, since what comes before is zero. On two cores.
    #[must_use]
    pub fn inverse_columns(&self) -> Vec<Vec<f64>> {
        let column = |a: usize| {
            let mut x: Vec<f64> = Vec::with_capacity(self.n - a);
            for i in a..self.n {
                let row = &self.rows[i * self.n..];
                let one = if i == a { 1.0 } else { 0.0 };
                x.push((one - dot(&row[a..i], &x)) / row[i]);
            }
            x
        };
        if self.n < WORTH_A_THREAD {
            return (0..self.n).map(column).collect();
        }
        // The first columns are the long ones: every other goes to the second thread.
        let (mut even, odd): (Vec<Vec<f64>>, Vec<Vec<f64>>) = std::thread::scope(|s| {
            let odd = s.spawn(|| (1..self.n).step_by(2).map(column).collect::<Vec<_>>());
            let even = (0..self.n).step_by(2).map(column).collect::<Vec<_>>();
            (even, odd.join().unwrap_or_default())
        });
        let mut all = Vec::with_capacity(self.n);
        let mut odd = odd.into_iter();
        for column in even.drain(..) {
            all.push(column);
            all.extend(odd.next());
        }
        all
    }
}

/// An element of K⁻¹ from the columns of L⁻¹.
#[must_use]
pub fn inverse_at(columns: &[Vec<f64>], a: usize, b: usize) -> f64 {
    let (low, high) = (a.min(b), a.max(b));
    let Some((first, second)) = columns.get(low).zip(columns.get(high)) else {
        return 0.0;
    };
    dot(&first[high - low..], second)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// A matrix like a kernel: smooth, with noise on the diagonal.
    fn kernel(n: usize) -> Vec<f64> {
        let mut k = vec![0.0; n * n];
        for i in 0..n {
            for j in 0..n {
                let d = (i as f64 - j as f64) / 7.0;
                k[i * n + j] = (-0.5 * d * d).exp() + if i == j { 0.3 } else { 0.0 };
            }
        }
        k
    }

    #[rstest]
    #[case(1)]
    #[case(5)]
    #[case(48)]
    #[case(97)]
    #[case(431)]
    fn it_solves_and_inverts(#[case] n: usize) {
        let k = kernel(n);
        let b: Vec<f64> = (0..n).map(|i| (i as f64 * 0.37).sin()).collect();
        let factor = Cholesky::factor(k.clone(), n).unwrap();
        let x = factor.solve(&b);
        for i in 0..n {
            let back: f64 = (0..n).map(|j| k[i * n + j] * x[j]).sum();
            assert!((back - b[i]).abs() < 1e-9, "{n}: {back} {}", b[i]);
        }
        let half = factor.forward(&b);
        let square: f64 = b.iter().zip(&x).map(|(b, x)| b * x).sum();
        assert!((dot(&half, &half) - square).abs() < 1e-9);
        let columns = factor.inverse_columns();
        assert_eq!(columns.len(), n);
        for (i, j) in [(0, 0), (n / 2, n - 1), (n - 1, n / 3)] {
            let mut e = vec![0.0; n];
            e[j] = 1.0;
            let exact = factor.solve(&e)[i];
            assert!((inverse_at(&columns, i, j) - exact).abs() < 1e-9);
        }
    }

    #[test]
    fn a_determinant_is_that_of_the_matrix() {
        let factor = Cholesky::factor(vec![4.0, 0.0, 2.0, 3.0], 2).unwrap();
        assert!((2.0 * factor.half_log_det() - 8.0_f64.ln()).abs() < 1e-12);
    }

    #[test]
    fn what_is_not_positive_definite_is_refused() {
        assert!(Cholesky::factor(vec![1.0, 0.0, 2.0, 1.0], 2).is_none());
        assert!(Cholesky::factor(vec![f64::NAN], 1).is_none());
    }
}
