//! A load in a kiln or a forge with everything tied to it: in together at one temperature, out one by one.

use crate::planning::genome::{Genome, Unit};
use crate::planning::layout::{Binds, Grip, Laid, Layout, Part, Stay, load_heat};
use crate::planning::problem::{NEVER, up};
use crate::planning::tasks::Task;

/// Moments tried for a load; beyond the fifteenth steps grow.
const TRIES: usize = 60;
const GROWS_FROM: usize = 15;
/// Times that a member of a load may be held in the fire.
const HOLDS: usize = 25;
/// A span shorter than this is of a blade on its way from fire to bath, s.
const SHORT_SPAN_S: i64 = 600;
/// A load that no wait mends begins so much later, s.
const LATER_S: i64 = 300;

/// A load as it is tried at one station.
struct Heat<'u> {
    runs: &'u [usize],
    place: usize,
    heat_c: f64,
    preheat_c: f64,
    /// From its start until each may come out, s.
    off_s: Vec<i64>,
    /// Until the last may, s.
    most_s: i64,
    /// Putting in, s; nothing where somebody is at it all the while.
    in_s: i64,
    /// Who does not do it.
    barred: u32,
    /// It is going on since then, s.
    since_s: Option<i64>,
}

/// Who is at a load, and what keeps it from being earlier.
struct Begun {
    start_s: i64,
    going_in: Option<usize>,
    all_the_while: Option<usize>,
    binds: Binds,
    number: usize,
}

/// How a member of a load came out.
enum Member {
    Out { leave_s: i64, end_s: i64 },
    Later { by_s: i64 },
    Never,
}

impl Layout<'_> {
    fn first_task(&self, run: usize) -> &Task {
        &self.problem.tasks[self.problem.runs[run].first]
    }

    /// Taking a member out, s; nothing where somebody is at the fire all the while.
    fn out_s(&self, run: usize, place: usize) -> i64 {
        if self.problem.places[place].attention > 0 {
            0
        } else {
            self.first_task(run).out_s
        }
    }

    fn heat<'u>(&self, unit: &'u Unit, place: usize) -> Option<Heat<'u>> {
        let problem = self.problem;
        let at = &problem.places[place];
        let (heat_c, preheat_c) = load_heat(problem, &unit.runs, unit.heat_c)?;
        let lead = self.first_task(*unit.runs.first()?);
        let (heat_c, preheat_c) = lead
            .lived
            .map_or((heat_c, preheat_c), |l| (l.heat_c, l.preheat_c));
        let more = 1.0 + at.more_per_blade * (unit.runs.len() as f64 - 1.0);
        let longer = |s: i64| up(s as f64 * more, problem.grid_s);
        let members = || unit.runs.iter().map(|r| self.first_task(*r));
        let in_s = if at.attention > 0 {
            0
        } else {
            members().map(|t| t.in_s).sum()
        };
        let mut head_s = in_s;
        if lead.preheat.is_some() {
            let even = members().filter_map(|t| t.preheat);
            let even_s = even.map(|p| longer(p.heat_s) + p.hold_s).max();
            let fire = at.fire.as_ref()?;
            head_s += even_s.unwrap_or(0) + problem.ramp_s(fire, preheat_c, heat_c);
        }
        let off_s: Vec<i64> = members()
            .map(|t| head_s + longer(t.heat_s) + t.hold_s)
            .collect();
        Some(Heat {
            runs: &unit.runs,
            place,
            heat_c,
            preheat_c,
            most_s: off_s.iter().copied().max()?,
            off_s,
            in_s,
            barred: members().fold(0, |all, t| all | t.barred),
            since_s: lead.lived.map(|l| l.start_s),
        })
    }

    /// Lays a load at a station; the sum of the ends of its runs, s.
    pub(super) fn load(
        &mut self,
        genome: &Genome,
        unit: &Unit,
        place: usize,
        ready_s: i64,
    ) -> Option<i64> {
        let problem = self.problem;
        let heat = self.heat(unit, place)?;
        let lead = problem.runs[unit.runs[0]].first;
        let (in_c, out_c) = self.heats(lead, heat.heat_c, heat.preheat_c);
        let of = |r: &usize| problem.units(problem.runs[*r].piece, place);
        let units: i64 = unit.runs.iter().map(of).sum();
        let attention = problem.places[place].attention;
        let (mark, broken_s) = (self.log.len(), self.broken_s);
        let firsts = || unit.runs.iter().map(|r| problem.runs[*r].first);
        let pin_s = firsts().filter_map(|k| problem.tasks[k].pin_s).max();
        let known_s = firsts().map(|k| self.known_s[k]).max().unwrap_or(0);
        let mut s = known_s.max(ready_s);
        let mut binds = if ready_s > problem.now_s {
            Binds::StepBefore
        } else {
            Binds::Now
        };
        if let Some(pin_s) = pin_s.filter(|p| *p > s) {
            s = pin_s;
            binds = Binds::Pin;
        }
        self.binds = binds;
        let last_out_s = self.out_s(unit.runs[0], place);
        for n in 0..TRIES {
            let grows = if n > GROWS_FROM {
                problem.grid_s << ((n - GROWS_FROM) / 6).min(7)
            } else {
                0
            };
            let later = |by_s: i64| by_s.max(problem.grid_s).max(grows);
            self.undo(mark);
            self.broken_s = broken_s;
            let (mut going_in, mut all_the_while) = (None, None);
            if let Some(since_s) = heat.since_s {
                s = since_s;
            } else {
                let for_s = heat.most_s + last_out_s;
                s = self.takes((lead, place), s, for_s, units, (in_c, out_c))?;
                if heat.in_s > 0 {
                    let asked = self.hands((lead, Part::In), 2, s, heat.in_s, heat.barred)?;
                    if asked.0 > s {
                        self.binds = Binds::Hands { operator: asked.1 };
                        s = asked.0;
                        continue;
                    }
                    going_in = Some(asked.1);
                }
                if attention > 0 {
                    let part = (lead, Part::While);
                    let asked = self.hands(part, attention, s, heat.most_s, heat.barred)?;
                    if asked.0 > s {
                        self.binds = Binds::Hands { operator: asked.1 };
                        s = asked.0;
                        continue;
                    }
                    all_the_while = Some(asked.1);
                }
            }
            let begun = Begun {
                start_s: s,
                going_in,
                all_the_while,
                binds: self.binds,
                number: self.loads,
            };
            self.begin(&heat, lead, attention, &begun);
            let Ok((end_s, last_leave_s, sum_s)) = self.come_out(genome, &heat, &begun) else {
                self.undo(mark);
                self.broken_s = broken_s;
                return None;
            };
            let late_s = end_s.map_or_else(|by_s| by_s, |_| 0);
            let Ok(end_s) = end_s else {
                if heat.since_s.is_some() {
                    self.undo(mark);
                    self.broken_s = broken_s;
                    return None;
                }
                self.binds = Binds::Wait { task: lead };
                s += later(late_s);
                if s > problem.horizon_s {
                    break;
                }
                continue;
            };
            if end_s > s + heat.most_s + last_out_s && heat.since_s.is_none() {
                let then = self.takes((lead, place), s, end_s - s, units, (in_c, out_c))?;
                if then > s {
                    s = then.max(s + grows);
                    continue;
                }
            }
            if let Some(o) = all_the_while.filter(|_| last_leave_s > s + heat.most_s)
                && !self.stays_at_it(o, lead, (s, s + heat.most_s, last_leave_s), attention)
            {
                s += later(last_leave_s - s - heat.most_s);
                continue;
            }
            if let Some(pin_s) = pin_s {
                self.broken_s += (s - pin_s).max(0);
            }
            let stay = Stay {
                start_s: s,
                end_s,
                units,
                in_c,
                out_c,
                task: lead,
            };
            self.stay(place, stay);
            self.loads += 1;
            return Some(sum_s);
        }
        self.undo(mark);
        self.broken_s = broken_s;
        None
    }

    fn begin(&mut self, heat: &Heat<'_>, lead: usize, attention: i64, begun: &Begun) {
        let start_s = begun.start_s;
        let grip = |end_s, share, part| Grip {
            start_s,
            end_s,
            share,
            task: lead,
            part,
        };
        if let Some(o) = begun.going_in {
            self.grip(o, grip(start_s + heat.in_s, 2, Part::In));
        }
        if let Some(o) = begun.all_the_while {
            self.grip(o, grip(start_s + heat.most_s, attention, Part::While));
        }
    }

    /// Every member out, one by one, with what is tied to it: when the last is out, when it left, and the sum of all ends; or
    /// by how much the load has to begin later. Err where it can never be.
    #[allow(clippy::type_complexity, reason = "read once, beside it")]
    fn come_out(
        &mut self,
        genome: &Genome,
        heat: &Heat<'_>,
        begun: &Begun,
    ) -> Result<(Result<i64, i64>, i64, i64), ()> {
        let mut end_s = begun.start_s + heat.most_s;
        let mut last_leave_s = end_s;
        let mut sum_s = 0;
        for (n, run) in heat.runs.iter().enumerate() {
            match self.member(genome, heat, begun, n) {
                Member::Out {
                    leave_s,
                    end_s: out_s,
                } => {
                    end_s = end_s.max(out_s);
                    last_leave_s = last_leave_s.max(leave_s);
                    let last = self.problem.runs[*run].last;
                    sum_s += self.laid[last].map_or(0, |l| l.end_s);
                }
                Member::Later { by_s } => return Ok((Err(by_s), last_leave_s, sum_s)),
                Member::Never => return Err(()),
            }
        }
        Ok((Ok(end_s), last_leave_s, sum_s))
    }

    fn member(&mut self, genome: &Genome, heat: &Heat<'_>, begun: &Begun, n: usize) -> Member {
        let problem = self.problem;
        let run = &problem.runs[heat.runs[n]];
        let (k, task) = (run.first, &problem.tasks[run.first]);
        let out_s = self.out_s(heat.runs[n], heat.place);
        let least_s = begun.start_s + heat.off_s[n];
        let least_s = match task.lived {
            Some(lived) => least_s.max(problem.now_s).max(lived.until_s),
            None => least_s,
        };
        let going = heat.since_s.is_some();
        let mut leave_s = least_s.max(self.leaves_s[k].min(least_s + task.extra_s));
        let (mark, broken_s) = (self.log.len(), self.broken_s);
        let short = problem
            .tasks
            .get(k + 1)
            .is_some_and(|next| k < run.last && next.ties.iter().any(|t| t.max_s < SHORT_SPAN_S));
        for _ in 0..HOLDS {
            let mut taking_out = None;
            if out_s > 0 {
                let Some((then, o)) = self.hands((k, Part::Out), 2, leave_s, out_s, task.barred)
                else {
                    return Member::Never;
                };
                leave_s = then;
                taking_out = Some(o);
            }
            let over_s = leave_s - least_s - task.extra_s;
            if over_s > 0 {
                if !going {
                    return Member::Later { by_s: over_s };
                }
                self.broken_s += over_s;
            }
            let end_s = leave_s + out_s;
            let put = |layout: &mut Self| {
                if let Some(o) = taking_out {
                    let grip = Grip {
                        start_s: leave_s,
                        end_s,
                        share: 2,
                        task: k,
                        part: Part::Out,
                    };
                    layout.grip(o, grip);
                }
                let laid = Laid {
                    leave_s,
                    place: Some(heat.place),
                    heat_c: Some(heat.heat_c),
                    preheat_c: task.preheat.map(|_| heat.preheat_c),
                    hands: [begun.going_in, begun.all_the_while, taking_out],
                    load: Some(begun.number),
                    binds: begun.binds,
                    ..Laid::in_air(begun.start_s, end_s)
                };
                layout.put(k, laid);
            };
            put(self);
            let Err(late) = self.chain(genome, (k + 1, run.last), end_s, false) else {
                return Member::Out { leave_s, end_s };
            };
            self.undo(mark);
            self.broken_s = broken_s;
            if late.by_s >= NEVER {
                return Member::Never;
            }
            let by_itself = late.since == k;
            let bears = leave_s + late.by_s - least_s <= task.extra_s;
            // A short wait may be spent in the fire, if the blade bears it.
            if bears && (by_itself || (short && late.by_s <= SHORT_SPAN_S)) {
                leave_s += late.by_s;
            } else if !going {
                let by_s = if by_itself {
                    leave_s + late.by_s - least_s - task.extra_s
                } else {
                    late.by_s
                };
                return Member::Later { by_s };
            } else if by_itself {
                leave_s += late.by_s;
            } else {
                put(self);
                return match self.chain(genome, (k + 1, run.last), end_s, true) {
                    Ok(()) => Member::Out { leave_s, end_s },
                    Err(_) => Member::Never,
                };
            }
        }
        Member::Later { by_s: LATER_S }
    }

    /// Whoever is at a fire goes on being at it until the last is out.
    fn stays_at_it(
        &mut self,
        operator: usize,
        lead: usize,
        (start_s, until_s, longer_s): (i64, i64, i64),
        attention: i64,
    ) -> bool {
        let is_it = |g: &Grip| g.task == lead && g.part == Part::While;
        let free = self.grips[operator].iter().all(|g| {
            is_it(g) || g.end_s <= until_s || g.start_s >= longer_s || g.share + attention <= 2
        });
        let mut windows = self.problem.hands[operator].free.iter();
        if !free || !windows.any(|w| w.0 <= start_s && longer_s <= w.1) {
            return false;
        }
        if let Some(grip) = self.grips[operator].iter_mut().find(|g| is_it(g)) {
            grip.end_s = longer_s;
            let longest_s = &mut self.longest_s[operator];
            *longest_s = (*longest_s).max(longer_s - start_s);
        }
        true
    }
}
