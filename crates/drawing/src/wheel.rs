//! The wheel: the building from above, its faces as sectors in true direction, its heights as rings. In ink and tone, with a sign
//! for every state, so that it survives a black-and-white copy. On the page its cells can be chosen.

use crate::palette::Look;
use crate::svg::{Style, Svg};
use envelope::finding::{Finding, Urgency};
use envelope::roof::key_plan::KeyPlan;
use envelope::site::{Cell, CellReport, CellState, Coverage, Wheel, WheelCell, Zone};
use std::collections::{BTreeMap, BTreeSet};

/// What the notes of a cell come to.
struct CellNotes {
    /// The soonest step among them, when it presses: "soonest: before next rain".
    soonest: Option<String>,
    /// One of them can hurt someone.
    hazard: bool,
}

impl CellNotes {
    /// What findings come to, given soonest first.
    fn of(findings: &[&Finding]) -> CellNotes {
        let soonest = findings
            .first()
            .filter(|f| f.urgency <= Urgency::BeforeNextRain)
            .map(|f| format!("soonest: {}", f.urgency_words.to_lowercase()));
        CellNotes { soonest, hazard: findings.iter().any(|f| f.hazard) }
    }
}

/// The wheel. Cells carry their key, so that the page can let them be chosen.
pub fn wheel_svg(wheel: &Wheel, coverage: &Coverage, findings: &BTreeMap<Cell, Vec<&Finding>>, look: Look) -> String {
    let half = wheel.side / 2.0;
    let mut s = Svg::new(look);
    s.defs(|s| {
        s.pattern(NOT_SEEN, [6.0, 6.0], 45.0, |s| {
            s.rect([0.0, 0.0], [6.0, 6.0], &Style::new().fill(look.plaster));
            s.line([0.0, 0.0], [0.0, 6.0], &Style::new().stroke(look.ink_soft, 1.5));
        });
    });
    let mut dangers = Vec::new();
    for shape in &wheel.cells {
        let Some(cell) = coverage.cells.iter().find(|c| c.cell == shape.cell) else { continue };
        let of = CellNotes::of(findings.get(&cell.cell).map_or(&[], Vec::as_slice));
        let name = format!("{}: {}", cell.name, standing(cell, &of));
        s.group(&Style::button("data-cell", &shape.cell.to_string(), &name), |s| {
            s.mark(&shape.path, &fill(cell, look));
            if cell.cell == Cell::Inside {
                compass_plan(s, wheel.turn);
            }
            sign(s, cell, [shape.x, shape.y]);
        });
        if of.hazard {
            dangers.push([shape.x, shape.y]);
        }
    }
    // Above all cells: a triangle reaches over the rim of its own.
    for at in dangers {
        danger(&mut s, at);
    }
    names(&mut s, wheel, 13);
    if wheel.oriented {
        s.north([-half + 14.0, -half + 34.0]);
    }
    s.done_around(wheel.side, &format!("The round: {}", coverage.sentence))
}

/// The building from above with places marked: some on a dark ground, numbers where there are any. For finding a place on a sheet.
pub fn places_svg(plan: &KeyPlan, numbers: &BTreeMap<Cell, Vec<usize>>, dark: &BTreeSet<Cell>, look: Look) -> String {
    let own = plan.own;
    let mut s = Svg::new(look);
    let (rooms, outside): (Vec<_>, Vec<_>) = plan.places.cells.iter().partition(|c| c.cell == Cell::Inside);
    let cell = |s: &mut Svg, shape: &WheelCell| {
        let on = dark.contains(&shape.cell);
        let fill = if on { look.ink } else { look.plaster };
        // The slopes of the house stand out from the bands around it.
        let line = if own && matches!(shape.cell, Cell::Outside(_, Zone::Roof)) { look.ink_soft } else { look.plaster_line };
        s.mark(&shape.path, &Style::new().fill(fill).stroke(line, if own { 1.5 } else { 2.5 }));
        if shape.cell == Cell::Inside && !on && !own {
            compass_plan(s, plan.places.turn);
        }
    };
    for shape in outside {
        cell(&mut s, shape);
    }
    for [p, q] in &plan.lines {
        s.line(*p, *q, &Style::new().stroke(look.ink_soft, 1.5));
    }
    // The rooms lie under it all, and their plate over it.
    for shape in rooms {
        cell(&mut s, shape);
    }
    for shape in &plan.places.cells {
        let Some(list) = numbers.get(&shape.cell) else { continue };
        let on = dark.contains(&shape.cell);
        let colour = if on { look.plaster } else { look.ink };
        // A cell has room for one row.
        let mut shown: Vec<String> = list.iter().take(if list.len() > 3 { 2 } else { 3 }).map(usize::to_string).collect();
        if list.len() > 3 {
            shown.push("…".into());
        }
        let style = Style::new().middle().weight(700).size(11.0).fill(colour);
        s.text([shape.x, shape.y + 4.0], &shown.join(" "), &style);
    }
    names(&mut s, &plan.places, 14);
    if own && plan.places.oriented {
        s.north([14.0 - plan.places.side / 2.0, 34.0 - plan.places.side / 2.0]);
    }
    s.done_around(plan.places.side, "The building from above with places marked")
}

/// The names of the faces. Those at the sides run along the rim, so that they stay inside the square.
pub(crate) fn names(s: &mut Svg, wheel: &Wheel, size: u8) {
    let ink = s.look.ink;
    for l in &wheel.labels {
        let angle = if l.x.abs() > l.y.abs() { if l.x > 0.0 { 90 } else { -90 } } else { 0 };
        let turn = Style::new().turned(f64::from(angle), [l.x, l.y]).middle().level();
        s.text([l.x, l.y], &l.text, &turn.fill(ink).size(f64::from(size)).mute());
    }
}

/// How a cell stands, as a screen reader says it.
fn standing(cell: &CellReport, of: &CellNotes) -> String {
    let notes = match cell.notes {
        0 => String::new(),
        1 => "1 note".to_owned(),
        n => format!("{n} notes"),
    };
    let state = match cell.state {
        CellState::Untouched if cell.expected => "not looked at yet",
        CellState::Untouched => "not asked for",
        CellState::Seen => "seen, nothing to note",
        CellState::Limited => "could not be seen",
        CellState::Noted => "",
    };
    let soonest = of.soonest.as_deref().unwrap_or_default();
    let hazard = if of.hazard { "hazard" } else { "" };
    [state, &notes, soonest, hazard].into_iter().filter(|t| !t.is_empty()).collect::<Vec<_>>().join(", ")
}

/// The pattern of a place that could not be seen.
const NOT_SEEN: &str = "could-not-be-seen";

fn fill(cell: &CellReport, look: Look) -> Style {
    match cell.state {
        CellState::Untouched if cell.expected => Style::new().fill(look.plaster).stroke(look.ink_soft, 1.0).dash("3 3"),
        CellState::Untouched => Style::new().fill(look.plaster),
        CellState::Seen => Style::new().fill(look.seen),
        CellState::Noted => Style::new().fill(look.noted),
        CellState::Limited => Style::new().pattern(NOT_SEEN),
    }
}

/// The plan of the building in the middle, its door to the front.
fn compass_plan(s: &mut Svg, turn: f64) {
    let Look { ink, plaster, .. } = s.look;
    s.group(&Style::new().spun(turn).hollow(), |s| {
        s.mark("M-22 14V-14H22V14", &Style::new().fill(plaster).stroke(ink, 1.5));
        s.mark("M-22 14H-6M6 14H22", &Style::new().stroke(ink, 3.0));
    });
}

/// A number for notes, a tick for seen.
fn sign(s: &mut Svg, cell: &CellReport, [x, y]: [f64; 2]) {
    let Look { ink, plaster, verdigris, .. } = s.look;
    if cell.notes > 0 {
        if cell.state == CellState::Limited {
            s.circle([x, y], 8.0, &Style::new().fill(plaster));
        }
        let style = Style::new().middle().weight(700).size(13.0).fill(ink).still();
        s.text([x, y + 4.5], &cell.notes.to_string(), &style);
    } else if cell.state == CellState::Seen {
        s.sign([x - 4.0, y], "l3 3l5 -6", &Style::new().hollow().stroke(verdigris, 1.8));
    }
}

/// A point so far beside one of the wheel, along its own ring. Simply to the right, it would stand on the next ring of a face at the side
/// and be read as said of that.
pub(crate) fn beside([x, y]: [f64; 2], by: f64) -> [f64; 2] {
    let out = x.hypot(y);
    // To the right where the ring has a right.
    let way = if out < 1e-9 {
        [1.0, 0.0]
    } else if y < 0.0 {
        [-y / out, x / out]
    } else {
        [y / out, -x / out]
    };
    [x + way[0] * by, y + way[1] * by]
}

/// How far a sign stands from the middle of its count.
pub(crate) const ASIDE: f64 = 14.0;

/// A triangle in brick: somebody can be hurt there.
fn danger(s: &mut Svg, at: [f64; 2]) {
    let Look { plaster, brick, .. } = s.look;
    let [x, y] = beside(at, ASIDE);
    s.sign([x - 4.5, y + 4.0], "l4.5 -8l4.5 8z", &Style::new().fill(plaster).stroke(brick, 1.6).still());
}

#[cfg(test)]
mod tests {
    use super::*;
    use envelope::site::{Bearing, Mark, MarkState, coverage, wheel};

    /// Whichever way the house is turned, a sign stands in the ring of its own count and nearer to it than to any other.
    #[test]
    fn a_sign_is_read_with_its_own_count() {
        for turn in 0..360 {
            let wheel = wheel(Bearing::new(f64::from(turn)).ok());
            for own in &wheel.cells {
                let at = beside([own.x, own.y], ASIDE);
                let far = |c: &WheelCell| (c.x - at[0]).hypot(c.y - at[1]);
                assert!((far(own) - ASIDE).abs() < 1e-9);
                for other in wheel.cells.iter().filter(|c| c.cell != own.cell) {
                    assert!(far(other) > ASIDE + 1.0, "turned {turn}, {}: {:.1} from {}", own.cell, far(other), other.cell);
                }
                // Along the ring, not out of it: no more than a straight line leaves a circle.
                let out = at[0].hypot(at[1]) - own.x.hypot(own.y);
                assert!(own.cell == Cell::Inside || (-1e-9..2.1).contains(&out), "turned {turn}, {}: {out:.1} farther out", own.cell);
            }
        }
    }

    #[test]
    fn page_and_print_draw_the_same_cells_with_a_sign_for_every_state() {
        let cell = |c: &str| -> Cell { c.parse().unwrap() };
        let marks = [Mark { cell: cell("rear.roof"), state: MarkState::Seen }];
        let of = coverage([cell("rear.edge"), cell("rear.edge")], &marks, |_| true);
        let wheel = wheel(Bearing::new(200.0).ok());
        let place = envelope::site::Place::outside(envelope::site::Face::Rear, envelope::site::Zone::Edge);
        let read =
            envelope::round::read("gutter end no downspout, light missing, wires hanging", &envelope::round::Context::at(place, None));
        let notes: Vec<_> = read.notes.into_iter().map(|n| n.into_note(String::new())).collect();
        let all = envelope::finding::findings(notes.iter().map(|n| ("n", n)), &Default::default(), &Default::default());
        let notes = BTreeMap::from([(cell("rear.edge"), all.iter().collect::<Vec<_>>())]);
        let draw = |look| wheel_svg(&wheel, &of, &notes, look);
        let (page, print) = (draw(Look::PAGE), draw(Look::PRINT));
        let bare = |svg: &str| svg.split('"').filter(|p| !p.starts_with('#') && !p.starts_with("var(")).collect::<String>();
        assert_eq!(bare(&page), bare(&print));
        assert_eq!(page.matches("data-cell").count(), Cell::all().len());
        assert!(page.contains("Rear, edge and gutter: 2 notes, soonest: now, hazard"), "{page}");
        assert!(page.rfind("<g role") < page.find(r#"l4.5 -8l4.5 8z"#), "danger is drawn above the cells");
        assert!(print.contains(": seen, nothing to note") && print.contains("l3 3l5 -6"));
        assert!(!print.contains("var("));
    }

    /// On the house's own outline as on the wheel: the place that is meant is dark, its numbers stand on it, and ridges lie over the slopes.
    #[test]
    fn a_place_is_marked_on_the_outline_and_on_the_wheel() {
        let mass: envelope::roof::mass::Mass = serde_json::from_value(serde_json::json!({
            "id": "A", "centre_m": [0.0, 0.0], "len_u_m": 12.0, "len_v_m": 8.0, "rot_deg": 0.0, "eave_height_m": 3.0, "pitch": 0.5,
            "overhang_m": 0.4, "form": "hip", "ridge_along": null, "downslope": null,
        }))
        .unwrap();
        let shape = envelope::roof::shape::shape(&envelope::roof::shape::RoofInput { masses: vec![mass] }).unwrap();
        let own = envelope::roof::key_plan::key_plan(&shape, Bearing::new(200.0).ok()).unwrap();
        let round = KeyPlan::of_wheel(&wheel(Bearing::new(200.0).ok()));
        let cell: Cell = "rear.edge".parse().unwrap();
        let numbers = BTreeMap::from([(cell, vec![3, 7, 8, 9])]);
        for plan in [&own, &round] {
            let svg = places_svg(plan, &numbers, &BTreeSet::from([cell]), Look::PRINT);
            let path = &plan.places.cells.iter().find(|c| c.cell == cell).unwrap().path;
            assert!(svg.contains(&format!(r#"<path d="{path}" fill="{}""#, Look::PRINT.ink)));
            assert_eq!(svg.matches(&format!(r#"fill="{}" stroke="#, Look::PRINT.ink)).count(), 1, "one place is dark");
            assert!(svg.contains(">3 7 …<") && svg.contains(">Rear<"));
        }
        let lines = |plan: &KeyPlan| places_svg(plan, &BTreeMap::new(), &BTreeSet::new(), Look::PRINT).matches("<line").count();
        assert!(lines(&own) >= 5 && lines(&own) > lines(&round), "a hip roof has four hips and a ridge");
        // A roof without a ridge has its own outline all the same, and the sign of the wheel does not lie over it.
        let sign = |plan: &KeyPlan| places_svg(plan, &BTreeMap::new(), &BTreeSet::new(), Look::PRINT).contains("M-22 14V-14H22V14");
        let bare = KeyPlan { lines: vec![], ..own.clone() };
        assert!(sign(&round) && !sign(&own) && !sign(&bare));
    }
}
