//! A genome laid, pass after pass until every blade that can be is on the day: what is going on first, then each unit as
//! soon as the runs before it are laid.

use crate::planning::genome::{BEARS_ALL, Genome, Idle, RELUCTANCE_S, Unit};
use crate::planning::layout::Layout;
use crate::planning::score::Score;

/// Runs of one heat that is going on, by station and since when; or one that was begun and is no load.
type Going = (Option<(usize, i64)>, Vec<usize>);

impl Layout<'_> {
    /// Lays a genome, and mends it where a load cannot be; a blade that fits nowhere is left out, and the day laid again without
    /// it. The units come out in the order in which they were laid, so that the same genome lays the same day again.
    pub fn lay(&mut self, genome: &mut Genome) -> Score {
        let problem = self.problem;
        let mut lost = vec![false; problem.pieces.len()];
        while let Some(piece) = self.attempt(genome, &lost) {
            lost[piece] = true;
        }
        self.left_out.clone_from(&lost);
        let is_lost = |run: usize| lost[problem.runs[run].piece];
        let mut out = Vec::new();
        for unit in genome.units.iter_mut().filter(|u| u.runs.len() > 1) {
            let (gone, stay) = unit.runs.iter().partition(|r| is_lost(**r));
            unit.runs = stay;
            out.extend::<Vec<usize>>(gone);
        }
        genome.units.retain(|u| !u.runs.is_empty());
        genome.units.extend(out.into_iter().map(Unit::of));
        let laid = |run: usize| {
            let of = &problem.runs[run];
            Some((self.laid[of.first]?.start_s, self.laid[of.last]?.end_s))
        };
        genome.laid = (0..problem.runs.len()).map(laid).collect();
        genome.idle = if problem.hands.len() > 1 {
            self.idle()
        } else {
            Vec::new()
        };
        let order = |unit: &Unit| {
            if unit.runs.first().is_some_and(|r| is_lost(*r)) {
                u32::MAX
            } else {
                unit.runs
                    .iter()
                    .map(|r| self.laid_as[*r])
                    .max()
                    .unwrap_or(0)
            }
        };
        genome.units.sort_by_key(order);
        Score::of(self)
    }

    /// The longest waits of each operator in each shift, three at most.
    fn idle(&self) -> Vec<Idle> {
        let mut all = Vec::new();
        let now_s = self.problem.now_s;
        for (operator, hands) in self.problem.hands.iter().enumerate() {
            for (shift, &(from, to)) in hands.hours.iter().enumerate() {
                let mut at = from;
                let mut waits = Vec::new();
                for grip in &self.grips[operator] {
                    if grip.end_s <= from || grip.start_s >= to {
                        continue;
                    }
                    if grip.start_s > at + 600 && at > from {
                        waits.push((at - grip.start_s, at, grip.start_s));
                    }
                    at = at.max(grip.end_s);
                }
                waits.sort_unstable();
                let longest = waits.into_iter().take(3);
                all.extend(longest.map(|(_, from_s, to_s)| Idle {
                    operator,
                    shift,
                    from_s: from_s - now_s,
                    to_s: to_s - now_s,
                }));
            }
        }
        all
    }

    fn place_unit(&mut self, genome: &Genome, unit: &Unit) -> bool {
        let problem = self.problem;
        let mut ready_s = problem.now_s + unit.not_before_s;
        for run in unit.runs.iter().map(|r| &problem.runs[*r]) {
            ready_s = ready_s.max(problem.pieces[run.piece].release_s);
            let before = run.before.and_then(|b| self.laid[problem.runs[b].last]);
            ready_s = ready_s.max(before.map_or(0, |l| l.end_s));
        }
        let lead = &problem.runs[unit.runs[0]];
        if !lead.load || self.laid[lead.first].is_some() {
            return self.single(genome, unit.runs[0], ready_s);
        }
        if let Some(lived) = problem.tasks[lead.first].lived {
            let place = lived.place;
            return place.is_some_and(|p| self.load(genome, unit, p, ready_s).is_some());
        }
        let takes_all = |place: &usize| {
            let mut firsts = unit.runs.iter().map(|r| problem.runs[*r].first);
            unit.place.is_none_or(|only| only == *place)
                && firsts.all(|k| problem.tasks[k].at.contains(place))
        };
        let places = problem.tasks[lead.first].at.iter().copied();
        let places: Vec<usize> = places.filter(takes_all).collect();
        if let [only] = places[..] {
            return self.load(genome, unit, only, ready_s).is_some();
        }
        let mut best: Option<(i64, usize)> = None;
        for place in places {
            let (mark, broken_s, loads) = (self.log.len(), self.broken_s, self.loads);
            if let Some(sum_s) = self.load(genome, unit, place, ready_s) {
                if best.is_none_or(|b| sum_s < b.0) {
                    best = Some((sum_s, place));
                }
                self.undo(mark);
                self.broken_s = broken_s;
                self.loads = loads;
            }
        }
        best.is_some_and(|(_, place)| self.load(genome, unit, place, ready_s).is_some())
    }

    /// Runs that were begun go in front, those of one heat together, in the order of the genome: what waits hard may go before
    /// what comes out of the fire next. The units lose what is done.
    fn go_on(&mut self, genome: &mut Genome, done: &[bool], lost: &[bool]) {
        let problem = self.problem;
        for k in self.going_on.clone() {
            if !lost[problem.tasks[k].piece] {
                self.end_going(k);
            }
        }
        let mut going: Vec<Going> = Vec::new();
        for unit in &mut genome.units {
            unit.runs.retain(|&r| {
                let run = &problem.runs[r];
                if done[r] && !lost[run.piece] {
                    return false;
                }
                let Some(lived) = problem.tasks[run.first].lived else {
                    return true;
                };
                let heat = lived.place.filter(|_| run.load && !lived.over);
                match heat.map(|place| (place, lived.start_s)) {
                    Some(heat) => match going.iter_mut().find(|g| g.0 == Some(heat)) {
                        Some(mates) => mates.1.push(r),
                        None => going.push((Some(heat), vec![r])),
                    },
                    None => going.push((None, vec![r])),
                }
                false
            });
        }
        let front = going.into_iter().map(|(_, runs)| Unit {
            runs,
            place: None,
            heat_c: None,
            not_before_s: 0,
        });
        genome.units.splice(0..0, front.collect::<Vec<_>>());
        genome.units.retain(|u| !u.runs.is_empty());
    }

    fn take(&mut self, genome: &Genome) {
        let problem = self.problem;
        let now_s = problem.now_s;
        for (o, reluctance) in genome.reluctance.iter().enumerate() {
            self.reluctance_s[o] = RELUCTANCE_S[*reluctance as usize];
        }
        self.asked.clone_from(&genome.asked);
        for (k, known_s) in genome.known_s.iter().enumerate() {
            self.known_s[k] = now_s + known_s.unwrap_or(0);
            self.leaves_s[k] = known_s.map_or(0, |_| now_s + genome.leaves_s[k]);
        }
        self.trimmed = false;
        for (o, hands) in problem.hands.iter().enumerate() {
            self.free[o].clear();
            for &(a, b) in &hands.free {
                let (mut from, mut to) = (a, b);
                for (shift, hours) in hands.hours.iter().enumerate() {
                    if hours.0 <= a && b <= hours.1 {
                        let (wanted_from, wanted_to) = genome.wanted[o][shift];
                        from = wanted_from.map_or(from, |t| from.max(now_s + t));
                        to = wanted_to.map_or(to, |t| to.min(now_s + t));
                        self.trimmed |= wanted_from.is_some() || wanted_to.is_some();
                    }
                }
                if from < to {
                    self.free[o].push((from, to));
                }
            }
        }
    }

    /// One pass; the blade that could not be laid, if any.
    pub(super) fn attempt(&mut self, genome: &mut Genome, lost: &[bool]) -> Option<usize> {
        let problem = self.problem;
        self.reset();
        self.take(genome);
        let is_done = |layout: &Self, r: usize| {
            let run = &problem.runs[r];
            lost[run.piece] || layout.laid[run.last].is_some()
        };
        let mut done: Vec<bool> = (0..problem.runs.len()).map(|r| is_done(self, r)).collect();
        if self.any_lived {
            self.go_on(genome, &done, lost);
        }
        self.laid_as.fill(0);
        let mut step = 0;
        let mut open: Vec<bool> = genome
            .units
            .iter()
            .map(|u| u.runs.iter().any(|r| !done[*r]))
            .collect();
        loop {
            let ready = |n: &usize| {
                let mut runs = genome.units[*n].runs.iter();
                open[*n] && runs.all(|&r| done[r] || problem.runs[r].before.is_none_or(|b| done[b]))
            };
            let Some(n) = (0..genome.units.len()).find(ready) else {
                // Loads that wait for each other: the first gives one up.
                let circle = |n: &usize| open[*n] && genome.units[*n].runs.len() > 1;
                let n = (0..genome.units.len()).find(circle)?;
                let run = genome.units[n].runs.pop()?;
                genome.units.insert(n + 1, Unit::of(run));
                open.insert(n + 1, !done[run]);
                open[n] = genome.units[n].runs.iter().any(|r| !done[*r]);
                continue;
            };
            let mut unit = genome.units[n].clone();
            unit.runs.retain(|r| !done[*r]);
            if self.place_unit(genome, &unit) {
                step += 1;
                for &r in &unit.runs {
                    done[r] = true;
                    self.laid_as[r] = step;
                }
                open[n] = false;
                continue;
            }
            if unit.runs.len() > 1 {
                // A load that cannot be loses its last member.
                let run = unit.runs.pop()?;
                genome.units[n].runs.retain(|r| *r != run);
                genome.units.insert(n + 1, Unit::of(run));
                open.insert(n + 1, true);
                continue;
            }
            if unit.place.is_some() {
                genome.units[n].place = None;
                continue;
            }
            let run = &problem.runs[unit.runs[0]];
            let mut eased = genome.tolerance[unit.runs[0]] != BEARS_ALL;
            genome.tolerance[unit.runs[0]] = BEARS_ALL;
            for place in &mut genome.place[run.first..=run.last] {
                eased |= place.take().is_some();
            }
            if !eased {
                return Some(run.piece);
            }
        }
    }
}
