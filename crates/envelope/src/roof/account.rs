//! Everything that follows from a roof as it is kept: its shape with the names people use, the details that must exist, going
//! up or not, age and life slope by slope, the year to plan for.

use super::access::{AccessInput, access, capital};
use super::covering::{Covering, covering};
use super::details::{Detail, Names, details, where_on};
use super::elevation::elevations;
pub use super::figures::{Account, AccountInput, CoveringAccount, FittingAccount, Graded, LayerAccount, MassAccount, Modifier, Slope};
use super::life::{AgeEvidence, Life, LifeInput, RoofPart, Wear, left_in_words, life};
use super::perimeter::{Traverse, TraverseInput, traverse};
use super::pitch::pitch;
use super::record::{Climate, Paper, Placed, Roof, RoofError, RoofForm, Said, metres};
use super::shape::{Facet, RoofInput, RoofShape, shape};
use crate::job::Brief;
use crate::measure::Units;
use crate::practice::Practice;
use crate::round::Note;
use crate::site::Bearing;
use jiff::civil::Date;

/// A roof is judged by its worst slope of more than this share. From the specification of the life model.
const WORTH_JUDGING: f64 = 0.1;

impl Roof {
    /// Checks what only the day of the visit and the building can tell.
    ///
    /// # Errors
    /// The first date that cannot be.
    pub fn check_dates(&self, brief: &Brief, today: Date) -> Result<(), RoofError> {
        let visit = brief.visited_on.unwrap_or(today);
        for (i, p) in self.papers.iter().enumerate() {
            let err = |message: String| Err(RoofError { field: format!("papers.{i}.on"), message });
            let (what, on) = match p.said {
                Said::Permit { on } => ("permit", on),
                Said::Invoice { on } => ("invoice", on),
                Said::Picture { on, .. } => ("picture", on),
                Said::Stated { .. } | Said::Range { .. } => continue,
            };
            if on > visit {
                return err(format!("This {what} is dated {on}, after the visit on {visit}. Check the date."));
            }
            if what != "picture" && brief.year_built.is_some_and(|y| i32::from(on.year()) < i32::from(y)) {
                let built = brief.year_built.unwrap_or_default();
                return err(format!("This {what} is from {}, and the building from {built}. One of the two is wrong.", on.year()));
            }
        }
        for a in &self.papers {
            for b in &self.papers {
                if let (Said::Picture { on: gone, there: false }, Said::Picture { on: seen, there: true }) = (&a.said, &b.said)
                    && seen <= gone
                    && a.masses == b.masses
                    && !a.set_aside
                    && !b.set_aside
                {
                    return Err(RoofError {
                        field: "papers".into(),
                        message: format!(
                            "The pictures say it was there on {seen} and not there on {gone}: it cannot have gone away. Check their dates, or set one aside."
                        ),
                    });
                }
            }
        }
        Ok(())
    }
}

/// Years from a day to the visit.
fn years(from: Date, to: Date) -> f64 {
    /// Mean length of a year.
    const DAYS: f64 = 365.2425;
    from.until(to).map_or(0.0, |s| f64::from(s.get_days()) / DAYS)
}

impl Paper {
    fn evidence(&self, visit: Date) -> AgeEvidence {
        match self.said {
            Said::Permit { on } => AgeEvidence::Permit { elapsed_years: years(on, visit), right: self.right(), part: RoofPart::Whole },
            Said::Invoice { on } => AgeEvidence::Invoice { elapsed_years: years(on, visit), right: self.right(), part: RoofPart::Whole },
            Said::Stated { years, first_hand } => AgeEvidence::Stated { years, first_hand, who: self.who() },
            Said::Range { low_years, high_years } => AgeEvidence::Range { low_years, high_years, who: self.who() },
            Said::Picture { on, there: true } => AgeEvidence::Pictures { absent_years: None, present_years: Some(years(on, visit)) },
            Said::Picture { on, there: false } => AgeEvidence::Pictures { absent_years: Some(years(on, visit)), present_years: None },
        }
    }

    /// Who said it: where it is from, since the same person counts once.
    fn who(&self) -> Option<String> {
        Some(self.source.trim().to_lowercase()).filter(|s| !s.is_empty())
    }

    /// The chance that it means what it says.
    fn right(&self) -> f64 {
        self.right.unwrap_or_else(super::evidence::usually_right)
    }

    fn words(&self, visit: Date) -> String {
        let from = if self.source.is_empty() { String::new() } else { format!(" ({})", self.source) };
        let what = match &self.said {
            Said::Permit { on } => format!("permit of {on}, {:.1} years before the visit", years(*on, visit)),
            Said::Invoice { on } => format!("invoice of {on}, {:.1} years before the visit", years(*on, visit)),
            Said::Stated { years, first_hand } => {
                format!("said to be {years} years old, {}", if *first_hand { "at first hand" } else { "at second hand" })
            }
            Said::Range { low_years, high_years } => format!("said to be {low_years} to {high_years} years old"),
            Said::Picture { on, there } => format!("picture of {on}: {}", if *there { "there" } else { "not there yet" }),
        };
        let aside = if self.set_aside { ", set aside" } else { "" };
        format!("{}{from}{aside}", capital(&what))
    }
}

/// Works a roof out.
pub fn account(input: &AccountInput, notes: &[&Note]) -> Account {
    let AccountInput { roof, brief, practice, today } = input;
    let front = brief.front_faces;
    let mut out = Account {
        perimeter: super::walked::walls(&roof.perimeter).ok().and_then(|walls| traverse(&TraverseInput { heading0_deg: 0.0, walls }).ok()),
        shape: None,
        masses: vec![],
        slopes: vec![],
        fittings: vec![],
        elevations: vec![],
        details: vec![],
        coverings: vec![],
        papers: roof.papers.iter().map(|p| p.words(brief.visited_on.unwrap_or(*today))).collect(),
        oriented: front.is_some(),
        doubts: vec![],
        problem: None,
    };
    if roof.masses.is_empty() {
        return out;
    }
    let worked = roof.placed(front).and_then(|placed| {
        let s = shape(&RoofInput { masses: placed.masses.clone() })
            .map_err(|e| RoofError { field: "masses".into(), message: e.to_string() })?;
        Ok((placed, s))
    });
    let (placed, shape) = match worked {
        Ok(w) => w,
        Err(e) => {
            out.problem = Some(e.message);
            return out;
        }
    };
    out.doubts = placed.doubts.iter().chain(&shape.doubts).cloned().collect();
    out.doubts.extend(out.perimeter.iter().flat_map(|p| p.doubts.clone()));
    out.doubts.extend(perimeter_against(&placed, out.perimeter.as_ref(), practice.units));
    out.slopes = slopes(roof, brief, practice, *today, &shape);
    out.masses = masses(roof, practice, &placed, &out.slopes);
    out.elevations = elevations(&placed, &shape, front);
    out.details = details(roof, &placed, &shape, front, practice, notes);
    out.fittings = fittings(roof, &placed, &shape, front);
    out.coverings = coverings(roof, brief.visited_on.unwrap_or(*today), practice, &out.slopes, &shape);
    out.shape = Some(shape);
    out
}

/// The details alone: what the round needs, without the weighing of ages.
pub fn details_of(roof: &Roof, front: Option<Bearing>, practice: &Practice, notes: &[&Note]) -> Vec<Detail> {
    let Ok(placed) = roof.placed(front) else { return vec![] };
    let Ok(s) = shape(&RoofInput { masses: placed.masses.clone() }) else { return vec![] };
    details(roof, &placed, &s, front, practice, notes)
}

/// The walls that were taped and the masses that were entered are two accounts of one building.
fn perimeter_against(placed: &Placed, perimeter: Option<&Traverse>, u: Units) -> Option<String> {
    /// A tape that is off by more than this has been misread somewhere.
    const APART: f64 = 0.03;
    let taped = perimeter.filter(|p| p.simple_polygon)?.area_adjusted_m2;
    // What stands on a roof has no walls on the ground.
    let on_ground = placed.standing.iter().zip(&placed.on).filter(|(_, on)| on.is_none());
    let walls: f64 = on_ground.map(|(s, _)| s.length * s.depth).sum();
    ((walls - taped).abs() > APART * taped).then(|| {
        format!(
            "The walls as walked enclose {}, the masses as entered {}. A part is missing or counted twice, or a length is wrong.",
            u.area(taped),
            u.area(walls)
        )
    })
}

fn masses(roof: &Roof, practice: &Practice, placed: &Placed, slopes: &[Slope]) -> Vec<MassAccount> {
    roof.masses
        .iter()
        .zip(&placed.masses)
        .map(|(m, built)| {
            let age =
                slopes.iter().filter(|s| Names::masses(&s.facet).any(|id| id == m.id)).find_map(|s| s.life.as_ref()).map(|l| l.age[1]);
            let slopes_of = || built.slopes().into_iter();
            let drip = slopes_of().map(|s| built.eave_of(s) - built.pitch_of(s) * built.overhang_of(s)).fold(f64::MAX, f64::min);
            let input = AccessInput {
                pitch: if m.form == RoofForm::Flat { 0.0 } else { slopes_of().map(|s| built.pitch_of(s)).fold(0.0, f64::max) },
                covering: m.covering.clone(),
                eave_m: drip.clamp(0.0, 200.0),
                going_up: roof.going_up.clone(),
                age_years: age,
                practice: Some(practice.clone()),
            };
            MassAccount {
                id: m.id.clone(),
                name: m.name.clone(),
                pitch: pitch(&m.pitch).ok().filter(|_| built.pitch > 0.0),
                walls: built.walls().0,
                access: access(&input).expect("a mass that was built has a pitch and an eave"),
            }
        })
        .collect()
}

fn fittings(roof: &Roof, placed: &Placed, shape: &RoofShape, front: Option<Bearing>) -> Vec<FittingAccount> {
    roof.fittings
        .iter()
        .map(|f| {
            let (at, on, _) = where_on(f, placed, shape, roof, front);
            FittingAccount {
                id: f.id.clone(),
                name: if f.name.is_empty() { format!("{} {}", f.kind.name(), f.id) } else { f.name.clone() },
                at,
                width_m: metres("", &f.width).ok(),
                turned_deg: on.and_then(|o| o.downslope_azimuth_deg).map_or(0.0, |a| -a),
            }
        })
        .collect()
}

fn climate(c: Climate) -> Option<Modifier> {
    let of = |what: &str, factor| Some(Modifier { what: what.to_owned(), factor });
    match c {
        Climate::HotHumid => of("hot and humid climate", 0.82),
        Climate::HotDry => of("hot and dry climate", 0.85),
        Climate::FreezeThaw => of("frost and thaw", 0.93),
        Climate::Marine => of("sea air", 0.90),
        Climate::Temperate => None,
    }
}

/// What makes a slope's typical life differ. Rules of practice.
fn modifiers(roof: &Roof, f: &Facet, c: &Covering, practice: &Practice, north_known: bool) -> Vec<Modifier> {
    let s = &roof.setting;
    let mut out: Vec<Modifier> = climate(s.climate).into_iter().collect();
    let mut when = |met: bool, what: &str, factor: f64| {
        if met {
            out.push(Modifier { what: what.to_owned(), factor });
        }
    };
    /// A slope within this of due south or north is called sunny or shaded, degrees.
    const FACING: f64 = 60.0;
    let facing = |to: f64| f.downslope_azimuth_deg.is_some_and(|a| ((a - to + 180.0).rem_euclid(360.0) - 180.0).abs() <= FACING);
    // While north is not known no slope faces the sun; south of the equator the sun stands in the north.
    let sun = if s.southern { 0.0 } else { 180.0 };
    when(north_known && facing(sun), "faces the sun", 0.94);
    when(north_known && facing(180.0 - sun), "faces away from the sun", 1.03);
    when(s.poor_ventilation, "poorly ventilated attic", 0.90);
    when(s.second_layer, "second layer", 0.85);
    let rule = practice.rule("min-pitch");
    let least = rule.named(&c.key).unwrap_or(0.0);
    // Shingle may lie lower with a double underlayment, and does not last as long there.
    let low = if c.key.starts_with("asphalt") { least.max(rule.named("double-under").unwrap_or(0.0)) } else { least };
    when(f.pitch < low - 1e-9, "low pitch for this covering", 0.90);
    when(s.under_trees.contains(&f.id), "overhanging trees", 0.93);
    when(s.poor_workmanship, "poor workmanship", 0.80);
    when(s.past_hail, "past hail", 0.85);
    out
}

fn slopes(roof: &Roof, brief: &Brief, practice: &Practice, today: Date, shape: &RoofShape) -> Vec<Slope> {
    let names = Names::new(roof, brief.front_faces, &shape.facets);
    let visit = brief.visited_on.unwrap_or(today);
    let building = brief.year_built.map(|y| f64::from(visit.year()) - f64::from(y)).filter(|a| *a >= 0.0);
    let mut known: Vec<(LifeInput, Result<Life, String>)> = Vec::new();
    // Slopes alike are weighed once.
    let mut weigh = |input: LifeInput| match known.iter().find(|(i, _)| *i == input) {
        Some((_, l)) => l.clone(),
        None => {
            let l = life(&input).map_err(|e| e.to_string());
            known.push((input, l.clone()));
            l
        }
    };
    let dates = roof.check_dates(brief, today).err().map(|e| e.message);
    shape
        .facets
        .iter()
        .map(|f| {
            let mass = Names::masses(&f.id).next().unwrap_or_default();
            let of = roof.masses.iter().find(|m| m.id == mass).and_then(|m| m.covering.as_deref()).and_then(covering);
            let grades = roof.wear.get(&f.id);
            let mut slope = Slope {
                facet: f.id.clone(),
                label: names.facet(f),
                face: names.face(f),
                covering: of.map(|c| c.key.clone()),
                covering_name: of.map_or_else(|| "covering not said".to_owned(), |c| c.name.clone()),
                signs: vec![],
                median_life_years: None,
                modifiers: vec![],
                life: None,
                left: None,
                problem: dates.clone(),
                spent: roof
                    .setting
                    .fails_early
                    .get(mass)
                    .filter(|w| !w.trim().is_empty())
                    .map(|why| format!("Its life is spent: this product is known to fail early and cannot be mended. {}", why.trim())),
                layer: None,
            };
            let Some(c) = of else { return slope };
            slope.signs = c.signs.iter().map(|s| Graded { sign: s.clone(), grade: grades.and_then(|g| g.get(s)).copied() }).collect();
            slope.modifiers = modifiers(roof, f, c, practice, brief.front_faces.is_some());
            let median = slope.modifiers.iter().fold(c.median, |m, k| m * k.factor);
            slope.median_life_years = Some(median);
            if slope.problem.is_some() {
                return slope;
            }
            let papers: Vec<&Paper> =
                roof.papers.iter().filter(|p| !p.set_aside && (p.masses.is_empty() || p.masses.iter().any(|m| m == mass))).collect();
            let wear: Vec<(&String, Wear)> =
                slope.signs.iter().filter_map(|g| Some((&g.sign, Wear { indicator: g.sign.clone(), grade: g.grade? }))).collect();
            let input = LifeInput {
                median_life_years: median,
                building_age_years: building,
                age_evidence: papers.iter().map(|p| p.evidence(visit)).collect(),
                wear: wear.iter().map(|w| w.1.clone()).collect(),
                wait_years: roof.setting.wait_years.unwrap_or_else(super::evidence::usual_wait),
                shape: super::evidence::usual_shape(),
            };
            match weigh(input.clone()) {
                Ok(mut l) => {
                    let said = papers.iter().map(|p| p.words(visit)).chain(wear.iter().map(|(sign, w)| grade_words(sign, w.grade)));
                    for (moved, what) in l.evidence.iter_mut().zip(said) {
                        moved.what = what;
                    }
                    slope.left = Some(match practice.rule("roof-life").id() {
                        Some("typical") => l.schools.typical,
                        Some("condition") => l.schools.condition,
                        _ => l.schools.combined,
                    });
                    slope.life = Some(l);
                }
                Err(e) => slope.problem = Some(e),
            }
            slope.layer = c.layer.as_ref().and_then(|layer| {
                let factor = median / c.median;
                let l = weigh(LifeInput { median_life_years: layer.median * factor, wear: vec![], ..input }).ok()?;
                Some(LayerAccount { name: layer.name.clone(), why: layer.why.clone(), life: l })
            });
            slope
        })
        .collect()
}

fn grade_words(sign: &str, grade: u8) -> String {
    let Some(s) = super::covering::signs().iter().find(|s| s.key == sign) else { return sign.to_owned() };
    format!("{}: {} (grade {grade})", capital(&s.name), s.looks.get(grade as usize).map_or("", String::as_str))
}

/// Years as words, as they stand in a sentence.
fn number(years: f64) -> String {
    const WORDS: [&str; 21] = [
        "no",
        "one",
        "two",
        "three",
        "four",
        "five",
        "six",
        "seven",
        "eight",
        "nine",
        "ten",
        "eleven",
        "twelve",
        "thirteen",
        "fourteen",
        "fifteen",
        "sixteen",
        "seventeen",
        "eighteen",
        "nineteen",
        "twenty",
    ];
    let n = years.round().max(0.0) as usize;
    WORDS.get(n).map_or_else(|| n.to_string(), |w| (*w).to_owned())
}

fn span(s: [f64; 3]) -> String {
    let (a, b) = if s[2].round() > 20.0 { (format!("{:.0}", s[0]), format!("{:.0}", s[2])) } else { (number(s[0]), number(s[2])) };
    if a == b { format!("about {a}") } else { format!("{a} to {b}") }
}

/// Two slopes whose medians are nearer than this are spoken of together, years.
const ALIKE_YEARS: f64 = 1.5;

fn coverings(roof: &Roof, visit: Date, practice: &Practice, slopes: &[Slope], shape: &RoofShape) -> Vec<CoveringAccount> {
    let mut out: Vec<CoveringAccount> = Vec::new();
    let area = |s: &Slope| shape.facets.iter().find(|f| f.id == s.facet).map_or(0.0, |f| f.true_area_m2);
    for s in slopes {
        let Some(key) = s.covering.as_ref().filter(|k| out.iter().all(|o| o.covering != **k)) else { continue };
        let Some(c) = covering(key) else { continue };
        let of: Vec<&Slope> = slopes.iter().filter(|o| o.covering.as_ref() == Some(key)).collect();
        let whole: f64 = of.iter().map(|s| area(s)).sum();
        let weighed: Vec<(&Slope, &Life, [f64; 3])> = of.iter().filter_map(|s| Some((*s, s.life.as_ref()?, s.left?))).collect();
        let large = weighed.iter().filter(|w| area(w.0) > WORTH_JUDGING * whole);
        let Some((worst, l, left)) = large.min_by(|a, b| a.2[1].total_cmp(&b.2[1])) else { continue };
        // The sentence speaks of the most of it; slopes that differ are named after.
        let most = weighed
            .iter()
            .max_by(|a, b| {
                let alike = |w: &(&Slope, &Life, [f64; 3])| {
                    weighed.iter().filter(|o| (o.2[1] - w.2[1]).abs() < ALIKE_YEARS).map(|o| area(o.0)).sum::<f64>()
                };
                alike(a).total_cmp(&alike(b))
            })
            .expect("there is at least the worst");
        let other = |less: bool| -> Vec<&str> {
            weighed
                .iter()
                .filter(|w| if less { most.2[1] - w.2[1] >= ALIKE_YEARS } else { w.2[1] - most.2[1] >= ALIKE_YEARS })
                .map(|w| w.0.label.as_str())
                .collect()
        };
        let named = |word: &str, of: Vec<&str>| match of.len() {
            0 => String::new(),
            n if n > 3 => format!(", {word} on {n} slopes"),
            _ => format!(", {word} on the {}", of.join(" and the ")),
        };
        let gone = of.iter().any(|s| s.spent.is_some());
        let sentence = if gone {
            "Its life is spent, whatever its age: the product is known to fail early and cannot be mended. Plan to renew it now.".to_owned()
        } else {
            format!(
                "{} years old; {}{}{} (estimate).{}",
                capital(&span(most.1.age)),
                if most.2[0].round() < 0.0 { left_in_words(most.2) } else { format!("likely {} left", span(most.2)) },
                named("less", other(true)),
                named("more", other(false)),
                if l.evidence.is_empty() { " Nothing but the building is known of it: find a paper, or grade its wear." } else { "" }
            )
        };
        let (plan, ready) = if gone { (0.0, 0.0) } else { (left[1].max(0.0), left[0].max(0.0)) };
        let cost_per_square = roof.setting.cost_per_square.get(key).copied().unwrap_or(c.cost_per_square);
        let squares = whole / super::shape::SQUARE_M2;
        let cost = squares * cost_per_square;
        out.push(CoveringAccount {
            covering: key.clone(),
            name: c.name.clone(),
            sentence,
            worst: worst.label.clone(),
            squares,
            plan_year: visit.year() + plan.floor() as i16,
            ready_from: visit.year() + ready.floor() as i16,
            cost_per_square,
            cost,
            reserve_per_year: cost / plan.max(1.0),
            overdue: (!gone && left[1] < 0.0).then(|| capital(&left_in_words(*left))),
            schools: schools(l, practice),
            conflicts: weighed.iter().flat_map(|w| w.1.conflicts.iter().map(|c| format!("{}: {c}", capital(&w.0.label)))).collect(),
        });
    }
    out
}

/// The three schools side by side in words.
fn schools(l: &Life, practice: &Practice) -> String {
    let s = &l.schools;
    let of = |name: &str, v: [f64; 3]| format!("{name} {:.0} years ({:.0} to {:.0})", v[1], v[0], v[2]);
    let apart = s.typical[1] - s.condition[1];
    let why = if apart.abs() < ALIKE_YEARS {
        "They agree: the wear is what the papers would let one expect."
    } else if apart > 0.0 {
        "Typical life less age says more, because it does not see how far the wear has gone."
    } else {
        "Condition says more, because the wear is less than its years would let one expect."
    };
    format!(
        "{}; {}; {}. {why} The practice follows: {}.",
        of("All weighed together", s.combined),
        of("typical life less age", s.typical),
        of("condition only", s.condition),
        practice.rule("roof-life").words().to_lowercase()
    )
}
