//! What lies around: drains, trees, walls, spray heads, and what was told of them on the round.

use super::figures::{GroundInput, NearbyAccount};
use super::placing::Placing;
use super::record::NearbyKind;
use crate::measure::Quantity;
use crate::practice::{Verdict, judge_note};
use crate::roof::record::{metres, to_north};
use crate::round::Note;

/// Things nearby that were told on the round with their distance from the wall; at the middle of the face when nobody said
/// where along it.
pub(super) fn told(i: &GroundInput, place: &Placing) -> Vec<NearbyAccount> {
    const TOLD: [(&str, NearbyKind); 4] = [
        ("tree-near-foundation", NearbyKind::Trunk),
        ("spray-head-close", NearbyKind::SprayHead),
        ("spray-wets-wall", NearbyKind::SprayHead),
        ("retaining-wall-wet-bowed", NearbyKind::RetainingWall),
    ];
    let one = |n: &Note| -> Option<NearbyAccount> {
        let kind = TOLD.iter().find(|t| n.condition.as_deref() == Some(t.0))?.1;
        let judged = judge_note(n, &i.brief, &i.practice)?;
        let away = n.measures.iter().find(|m| m.quantity == Quantity::Length)?.si;
        let (s, face) = (place.standing.first()?, n.place.face?);
        let at = s.point(face, n.place.from_left_m.unwrap_or(s.side(face) / 2.0), -away);
        let reach_m = match kind {
            NearbyKind::Trunk => i.practice.rule("tree-setback").figure(),
            NearbyKind::SprayHead => i.practice.rule("sprinkler-setback").figure(),
            _ => away,
        };
        let along = if n.place.from_left_m.is_none() { ", somewhere along the face" } else { "" };
        Some(NearbyAccount {
            id: format!("round {}", n.place.station.as_deref().unwrap_or(&n.text)),
            kind,
            north: to_north(at, place.front),
            reach_m,
            from_wall_m: away,
            right: judged.verdict == Verdict::Meets,
            sentence: format!("Told on the round, {} face{along}: {}.", face.name().to_lowercase(), judged.sum),
        })
    };
    i.notes.iter().filter_map(one).collect()
}

pub(super) fn nearby(i: &GroundInput, place: &Placing, doubts: &mut Vec<String>) -> Vec<NearbyAccount> {
    let u = i.practice.units;
    let mut out = told(i, place);
    for n in &i.ground.nearby {
        let at = match place.point(&n.at) {
            Ok(p) => p,
            Err(e) => {
                doubts.push(format!("{}: {e}", n.id));
                continue;
            }
        };
        let far = place.nearest_side(at).map_or(f64::INFINITY, |s| s.3);
        let height = metres("", &n.height).ok();
        let (what, key, reach) = match n.kind {
            NearbyKind::Trunk => {
                let rule = i.practice.rule("tree-setback");
                let share = rule.named("share_of_height").filter(|_| rule.own.is_none()).unwrap_or(0.0);
                ("trunk", "tree-setback", rule.figure().max(share * height.unwrap_or(0.0)))
            }
            NearbyKind::SprayHead => ("spray head", "sprinkler-setback", i.practice.rule("sprinkler-setback").figure()),
            NearbyKind::RetainingWall => {
                ("retaining wall", "retaining-influence", i.practice.rule("retaining-influence").figure() * height.unwrap_or(0.0))
            }
            NearbyKind::Drain => ("drain", "", 0.0),
        };
        let right = far >= reach;
        let sentence = if key.is_empty() {
            format!(
                "{} {}: drain {} from the wall; water that comes to it is taken away.",
                n.id,
                place.nearest_side(at).map_or(String::new(), |(m, f, x, _)| place.words(m, f, x)),
                u.length(far, 1)
            )
        } else {
            let rule = i.practice.rule(key);
            let verdict = if right { "far enough".to_owned() } else { format!("nearer than {}", u.length(reach, 2)) };
            let refer =
                if n.kind == NearbyKind::RetainingWall && !right { "; it can affect the foundation: an engineer should look" } else { "" };
            format!("{}: {what} {} from the wall, {verdict} ({}){refer}.", n.id, u.length(far, 2), rule.words())
        };
        out.push(NearbyAccount {
            id: n.id.clone(),
            kind: n.kind,
            north: to_north(at, place.front),
            reach_m: reach,
            from_wall_m: if far.is_finite() { far } else { 0.0 },
            right,
            sentence,
        });
    }
    out
}
