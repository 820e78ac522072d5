//! Who does what at times that are given: the hands of a laid day shared out so that each operator is bound for as short as can
//! be, by branch and bound over the presses in order.

use crate::planning::layout::{Grip, Layout};

/// Branches that are looked at; the best that was seen is kept.
const BRANCHES: usize = 6_000;

/// Whose hands each task takes: in, all the while, out.
pub type Asked = Vec<[Option<usize>; 3]>;

/// A press with who may do it.
struct Press {
    grip: Grip,
    may: Vec<usize>,
}

struct Sharing<'a> {
    layout: &'a Layout<'a>,
    presses: Vec<Press>,
    /// Who does each, as it is tried.
    who: Vec<usize>,
    best: Option<(i64, Vec<usize>)>,
    branches: usize,
}

/// The shift of an operator that a press lies in, breaks left out; none where they are not there.
fn shift(layout: &Layout<'_>, operator: usize, grip: &Grip) -> Option<usize> {
    let hands = &layout.problem.hands[operator];
    let inside = |w: &(i64, i64)| w.0 <= grip.start_s && grip.end_s <= w.1;
    hands.free.iter().any(inside).then_some(())?;
    hands.hours.iter().position(inside)
}

/// Hands of a laid day shared out anew; none where it cannot be done better.
#[must_use]
pub fn share_out(layout: &Layout<'_>) -> Option<Asked> {
    let problem = layout.problem;
    if problem.hands.len() < 2 {
        return None;
    }
    let mut presses: Vec<Press> = Vec::new();
    for (operator, grips) in layout.grips.iter().enumerate() {
        for grip in grips {
            let load = layout.laid[grip.task].and_then(|l| l.load);
            let mates = layout.laid.iter().zip(&problem.tasks);
            let barred = mates
                .filter(|(laid, _)| load.is_some() && laid.is_some_and(|l| l.load == load))
                .fold(problem.tasks[grip.task].barred, |all, (_, t)| {
                    all | t.barred
                });
            let can = |o: &usize| barred >> o & 1 == 0 && shift(layout, *o, grip).is_some();
            let mut may: Vec<usize> = (0..problem.hands.len()).filter(can).collect();
            // As it is comes first, so that the first branch is no worse.
            may.sort_by_key(|o| *o != operator);
            presses.push(Press { grip: *grip, may });
        }
    }
    presses.sort_by_key(|p| (p.grip.start_s, p.grip.end_s));
    let mut sharing = Sharing {
        layout,
        who: Vec::with_capacity(presses.len()),
        presses,
        best: None,
        branches: 0,
    };
    let bound = problem.hands.iter().map(|h| vec![None; h.hours.len()]);
    sharing.branch(&mut bound.collect(), 0);
    let (_, who) = sharing.best?;
    let mut asked = vec![[None; 3]; problem.tasks.len()];
    for (press, operator) in sharing.presses.iter().zip(who) {
        asked[press.grip.task][press.grip.part as usize] = Some(operator);
    }
    Some(asked)
}

/// From the first to the last press, by operator and shift.
type Bound = Vec<Vec<Option<(i64, i64)>>>;

impl Sharing<'_> {
    fn branch(&mut self, bound: &mut Bound, cost_s: i64) {
        self.branches += 1;
        let known_s = self.best.as_ref().map_or(i64::MAX, |b| b.0);
        if cost_s >= known_s || self.branches > BRANCHES {
            return;
        }
        let n = self.who.len();
        let Some(press) = self.presses.get(n) else {
            self.best = Some((cost_s, self.who.clone()));
            return;
        };
        let grip = press.grip;
        let mut choices: Vec<(i64, usize, usize)> = Vec::new();
        for &operator in &press.may {
            let busy = self.presses[..n].iter().zip(&self.who);
            let taken: i64 = busy
                .filter(|(p, who)| **who == operator && p.grip.end_s > grip.start_s)
                .map(|(p, _)| p.grip.share)
                .sum();
            let Some(shift) = shift(self.layout, operator, &grip) else {
                continue;
            };
            if taken + grip.share > 2 {
                continue;
            }
            let more_s = match bound[operator][shift] {
                None => grip.end_s - grip.start_s,
                Some((_, to)) => (grip.end_s - to).max(0),
            };
            choices.push((more_s, operator, shift));
        }
        choices.sort_by_key(|c| c.0);
        for (more_s, operator, shift) in choices {
            let before = bound[operator][shift];
            bound[operator][shift] = Some(match before {
                None => (grip.start_s, grip.end_s),
                Some((from, to)) => (from, to.max(grip.end_s)),
            });
            self.who.push(operator);
            self.branch(bound, cost_s + more_s);
            self.who.pop();
            bound[operator][shift] = before;
        }
    }
}
