//! What must hold for any roof, tried on generated ones.

use envelope::rain::runoff::runoff;
use envelope::roof::key_plan::{KeyPlan, key_plan};
use envelope::roof::mass::{Along, Form, Mass, Side, SideOf};
use envelope::roof::shape::{EdgeKind, RoofInput, RoofShape, shape};
use envelope::site::{Bearing, Cell, Face, Zone};
use proptest::prelude::*;
use std::collections::BTreeMap;

/// A mass as practitioners measure them: to the decimetre, so that faces line up often.
fn mass(id: usize, turns: bool) -> impl Strategy<Value = Mass> {
    let figures = (20_u32..160, 20_u32..120, -80_i32..80, -80_i32..80, 20_u32..60, 1_u32..14, 0_u32..8);
    let turn = if turns { prop_oneof![Just(0.0), Just(90.0), Just(30.0), 0.0..360.0_f64].boxed() } else { Just(0.0).boxed() };
    (figures, turn, 0_usize..4, prop::sample::select(Side::ROUND.to_vec()), any::<bool>()).prop_map(
        move |((u, v, x, y, eave, pitch, overhang), rot_deg, form, side, along)| {
            let form = [Form::Hip, Form::Gable, Form::Shed, Form::Flat][form];
            let tenth = |n: f64| n / 10.0;
            Mass {
                id: format!("M{id}"),
                centre_m: [tenth(x.into()), tenth(y.into())],
                len_u_m: tenth(u.into()),
                len_v_m: tenth(v.into()),
                rot_deg,
                eave_height_m: tenth(eave.into()),
                pitch: if form == Form::Flat { 0.0 } else { f64::from(pitch) / 12.0 },
                overhang_m: tenth(overhang.into()),
                form,
                ridge_along: (form == Form::Gable).then_some(if along { Along::U } else { Along::V }),
                downslope: (form == Form::Shed).then_some(side),
                sides: BTreeMap::new(),
            }
        },
    )
}

/// Decimetres its eave stands higher, pitch in twelfths, overhang in decimetres, a break so many decimetres up with so many twelfths of the
/// pitch above it.
type Differs = (i8, Option<u32>, Option<u32>, Option<(u32, u32)>);

/// What differs at a side, or nothing: an eave of its own (of an upright end, a half-hip), a pitch, an overhang, a break.
fn differs() -> impl Strategy<Value = Option<Differs>> {
    let breaks = prop::option::of((1_u32..20, 1_u32..12));
    prop::option::weighted(0.3, (-8_i8..25, prop::option::of(2_u32..20), prop::option::of(0_u32..8), breaks))
}

/// A mass as roofs are built: half-hips, gambrels, mansards, eaves, pitches and overhangs of their own.
fn built(id: usize, turns: bool) -> impl Strategy<Value = Mass> {
    (mass(id, turns), prop::collection::vec(differs(), 4)).prop_map(|(mut m, all)| {
        for (side, d) in Side::ROUND.into_iter().zip(all) {
            let Some((eave, pitch, overhang, breaks)) = d else { continue };
            let mut of = SideOf { overhang_m: overhang.map(|o| f64::from(o) / 10.0), ..SideOf::default() };
            if m.form != Form::Flat {
                let (at, p) = (m.eave_height_m + f64::from(eave) / 10.0, pitch.map_or(m.pitch, |p| f64::from(p) / 12.0));
                of = SideOf { eave_height_m: Some(at), pitch: Some(p), ..of };
                if let Some((up, less)) = breaks {
                    of.break_height_m = Some(at + f64::from(up) / 10.0);
                    of.upper_pitch = Some(p * f64::from(less) / 12.0);
                }
            }
            m.sides.insert(side, of);
        }
        m
    })
}

fn masses(turns: bool) -> impl Strategy<Value = Vec<Mass>> {
    (1_usize..6).prop_flat_map(move |n| (0..n).map(|id| built(id, turns)).collect::<Vec<_>>())
}

fn of(masses: &[Mass]) -> RoofShape {
    shape(&RoofInput { masses: masses.to_vec() }).unwrap()
}

/// The roof's height over a point and the slope there, worked out from the masses alone; none beside the building.
fn oracle(masses: &[Mass], x: f64, y: f64) -> Option<(f64, f64)> {
    masses
        .iter()
        .filter_map(|m| {
            let (s, c) = m.rot_deg.to_radians().sin_cos();
            let (dx, dy) = (x - m.centre_m[0], y - m.centre_m[1]);
            let (u, v) = (dx * c + dy * s, dy * c - dx * s);
            let (hu, hv) = (m.len_u_m / 2.0, m.len_v_m / 2.0);
            let of = |side: Side| m.sides.get(&side).cloned().unwrap_or_default();
            let out = |side: Side| of(side).overhang_m.unwrap_or(m.overhang_m);
            if u > hu + out(Side::PlusU) || -u > hu + out(Side::MinusU) || v > hv + out(Side::PlusV) || -v > hv + out(Side::MinusV) {
                return None;
            }
            if m.form == Form::Flat {
                return Some((m.eave_height_m, 0.0));
            }
            let falls = |side: Side| match (m.form, side) {
                (Form::Hip, _) => true,
                (Form::Gable, Side::PlusU | Side::MinusU) => m.ridge_along == Some(Along::V),
                (Form::Gable, _) => m.ridge_along != Some(Along::V),
                (_, side) => m.downslope == Some(side),
            };
            let from = [hu - u, hu + u, hv - v, hv + v];
            Side::ROUND
                .into_iter()
                .zip(from)
                .filter(|(side, _)| falls(*side) || of(*side).eave_height_m.is_some())
                .map(|(side, from)| {
                    let (eave, pitch) = (of(side).eave_height_m.unwrap_or(m.eave_height_m), of(side).pitch.unwrap_or(m.pitch));
                    let low = (eave + pitch * from, pitch);
                    match (of(side).break_height_m, of(side).upper_pitch) {
                        // Above its break, written from the break's own place.
                        (Some(at), Some(upper)) if low.0 > at => (at + upper * (from - (at - eave) / pitch), upper),
                        _ => low,
                    }
                })
                .min_by(|a, b| a.0.total_cmp(&b.0))
        })
        .max_by(|a, b| a.0.total_cmp(&b.0))
}

fn totals(s: &RoofShape) -> Vec<(String, i64)> {
    s.edge_totals.iter().map(|(k, l)| (k.clone(), (l.true_m * 1e3).round() as i64)).collect()
}

fn near(a: &RoofShape, b: &RoofShape) -> Result<(), TestCaseError> {
    let close = |x: f64, y: f64| (x - y).abs() < 2e-3;
    prop_assert!(close(a.plan_area_m2, b.plan_area_m2), "{} {}", a.plan_area_m2, b.plan_area_m2);
    prop_assert!(close(a.true_area_m2, b.true_area_m2));
    for (k, l) in &a.edge_totals {
        let other = b.edge_totals.get(k).map_or(0.0, |l| l.true_m);
        prop_assert!(close(l.true_m, other), "{k}: {} and {other}\n{:?}\n{:?}", l.true_m, totals(a), totals(b));
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, ..ProptestConfig::default() })]

    /// The facets cover the roof once, and each is as high and as steep as the masses say: every point of a grid agrees.
    #[test]
    fn a_raster_agrees(masses in masses(true)) {
        let s = of(&masses);
        let inside = |ring: &[[f64; 2]], x: f64, y: f64| {
            (0..ring.len()).filter(|i| {
                let (a, b) = (ring[*i], ring[(i + 1) % ring.len()]);
                (a[1] > y) != (b[1] > y) && x < (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1]) + a[0]
            }).count() % 2 == 1
        };
        let step = 0.37;
        let (mut wrong, mut tried) = (0, 0);
        for i in -60..60 {
            for j in -60..60 {
                // Off the decimetre, so that no point of the grid lies on an edge of a mass that is not turned.
                let (x, y) = (f64::from(i) * step + 0.0137, f64::from(j) * step + 0.0291);
                let over: Vec<_> = s.facets.iter().filter(|f| f.parts.iter().any(|p| inside(&p.outer, x, y) && !p.holes.iter().any(|h| inside(h, x, y)))).collect();
                tried += 1;
                match (oracle(&masses, x, y), over.as_slice()) {
                    (None, []) => {}
                    (Some((z, pitch)), [f]) => {
                        let here = f.height[0] + f.height[1] * x + f.height[2] * y;
                        wrong += usize::from((here - z).abs() > 1e-4 || ((f.pitch - pitch).abs() > 1e-6 && (here - z).abs() > 1e-9));
                    }
                    _ => wrong += 1,
                }
            }
        }
        // A point of the grid may fall on an edge.
        prop_assert!(wrong <= 2, "{wrong} of {tried}: {masses:?}");
    }

    /// Areas add up, outlines enclose what the pieces cover, joints have two facets and borders one.
    #[test]
    fn nothing_is_lost_or_counted_twice(masses in masses(true)) {
        let s = of(&masses);
        let ring = |r: &[[f64; 2]]| (0..r.len()).map(|i| { let (p, q) = (r[i], r[(i + 1) % r.len()]); p[0] * q[1] - q[0] * p[1] }).sum::<f64>() / 2.0;
        let mut sum = 0.0;
        for f in &s.facets {
            let outlined: f64 = f.parts.iter().map(|p| ring(&p.outer) + p.holes.iter().map(|h| ring(h)).sum::<f64>()).sum();
            prop_assert!((outlined - f.plan_area_m2).abs() < 2e-3, "{}: {outlined} and {}", f.id, f.plan_area_m2);
            prop_assert!((f.true_area_m2 - f.plan_area_m2 / f.degrees.to_radians().cos()).abs() < 1e-6);
            sum += f.plan_area_m2;
        }
        prop_assert!((sum - s.plan_area_m2).abs() < 1e-9);
        // The borders enclose the plan.
        let around: f64 = s.edges.iter().filter(|e| e.kind.is_border()).map(|e| e.plan_m).sum();
        prop_assert!(around * around >= 4.0 * std::f64::consts::PI * s.plan_area_m2 * 0.999, "no outline is shorter than a circle's");
        for e in &s.edges {
            prop_assert_eq!(e.other.is_some(), !e.kind.is_border());
            prop_assert_eq!(e.lower_side.is_some(), e.kind.is_step());
            prop_assert!(e.other.as_ref() != Some(&e.facet));
            if let (Some(a), Some(b)) = (e.lower_z0_m, e.lower_z1_m) {
                prop_assert!(e.z0_m >= a - 1e-4 && e.z1_m >= b - 1e-4, "{e:?}");
            }
            if e.kind == EdgeKind::Ridge {
                prop_assert!((e.z0_m - e.z1_m).abs() < 1e-3);
            }
        }
    }

    /// Turning the whole, moving it, raising it and renumbering the masses change nothing but the frame.
    #[test]
    fn only_the_frame_changes(masses in masses(false), turn in 0.0..360.0_f64, up in -2.0..9.0_f64, far in -500.0..500.0_f64) {
        let s = of(&masses);
        let mut raised = masses.clone();
        for m in &mut raised {
            m.eave_height_m += up;
            for s in m.sides.values_mut() {
                s.eave_height_m = s.eave_height_m.map(|z| z + up);
                s.break_height_m = s.break_height_m.map(|z| z + up);
            }
        }
        near(&s, &of(&raised))?;
        let mut turned = masses.clone();
        let (sin, cos) = turn.to_radians().sin_cos();
        for m in &mut turned {
            let [x, y] = m.centre_m;
            m.centre_m = [x * cos - y * sin + far, x * sin + y * cos - far];
            m.rot_deg += turn;
        }
        near(&s, &of(&turned))?;
        let renumbered: Vec<Mass> = masses.iter().rev().cloned().collect();
        near(&s, &of(&renumbered))?;
        prop_assert_eq!(s.facets.len(), of(&renumbered).facets.len());
    }

    /// Every drop that falls on the roof leaves it or is held: nothing is made, nothing is lost.
    #[test]
    fn water_is_neither_made_nor_lost(masses in masses(true)) {
        let r = runoff(&RoofInput { masses: masses.clone() }).unwrap();
        let own: f64 = r.facet_to_edges.values().flatten().map(|e| e.plan_area_m2).sum();
        let flat_own: f64 = of(&masses).facets.iter().filter(|f| f.downslope_azimuth_deg.is_none()).map(|f| f.plan_area_m2).sum();
        prop_assert!((own + flat_own - r.total_plan_m2).abs() < 2e-3, "facets shed {own}, {} fell", r.total_plan_m2);
        let sheets: f64 = r.eave_sheet.iter().map(|e| e.sheet_total_m2).sum();
        let points: f64 = r.point_discharges.iter().map(|p| p.plan_area_m2).sum();
        let flat: f64 = r.flat_receives_m2.values().sum();
        prop_assert!((sheets + points + flat - r.total_plan_m2).abs() < 5e-3, "{sheets} + {points} + {flat} of {}", r.total_plan_m2);
    }

    /// A hip has the same slope all round: its true area is its plan over the cosine, however long it is.
    #[test]
    fn one_pitch_one_ratio(mass in mass(0, true)) {
        let s = of(std::slice::from_ref(&mass));
        let plan = (mass.len_u_m + 2.0 * mass.overhang_m) * (mass.len_v_m + 2.0 * mass.overhang_m);
        prop_assert!((s.plan_area_m2 - plan).abs() < 1e-5);
        prop_assert!((s.true_area_m2 - plan * mass.pitch.hypot(1.0)).abs() < 1e-5);
    }
}

/// Two sheds of one plane overlap in sight; a block cuts off the far part of the second. They are one facet whichever comes
/// first, because they touch where they overlap.
#[test]
fn planes_that_overlap_in_sight_are_one_facet() {
    let shed = |id: &str, x: f64, form: Form, width: f64, eave: f64, pitch: f64| Mass {
        id: id.into(),
        centre_m: [x, 2.0],
        len_u_m: width,
        len_v_m: 4.0,
        rot_deg: 0.0,
        eave_height_m: eave,
        pitch,
        overhang_m: 0.0,
        form,
        ridge_along: None,
        downslope: (form == Form::Shed).then_some(Side::MinusV),
        sides: BTreeMap::new(),
    };
    let mut masses = vec![
        shed("A", 3.0, Form::Shed, 6.0, 3.0, 0.25),
        shed("B", 7.0, Form::Shed, 6.0, 3.0, 0.25),
        shed("C", 6.75, Form::Flat, 1.5, 6.0, 0.0),
    ];
    let first = of(&masses);
    masses.swap(0, 1);
    let second = of(&masses);
    for (s, name) in [(&first, "A.-v|B.-v"), (&second, "B.-v|A.-v")] {
        let facet = s
            .facets
            .iter()
            .find(|f| f.id == name)
            .unwrap_or_else(|| panic!("{name}: {:?}", s.facets.iter().map(|f| &f.id).collect::<Vec<_>>()));
        // 10 m by 4 m less the block's 1.5 m, in two parts.
        assert!((facet.plan_area_m2 - 34.0).abs() < 1e-9 && facet.parts.len() == 2);
        assert_eq!(s.facets.len(), 2);
    }
    near(&first, &second).unwrap();
}

/// The areas of a key plan's cells, from their paths.
fn areas(plan: &KeyPlan) -> Vec<(Cell, f64)> {
    let number = |t: &str| t.parse::<f64>().unwrap();
    let ring = |t: &str| {
        let points: Vec<[f64; 2]> = t.split('L').map(|p| p.split_once(' ').map(|(x, y)| [number(x), number(y)]).unwrap()).collect();
        let next = points.iter().cycle().skip(1);
        points.iter().zip(next).map(|(a, b)| a[0] * b[1] - b[0] * a[1]).sum::<f64>().abs() / 2.0
    };
    let of = |path: &str| path.split('M').filter(|r| !r.is_empty()).map(|r| ring(r.trim_end_matches('Z'))).sum();
    plan.places.cells.iter().map(|c| (c.cell, of(&c.path))).collect()
}

proptest! {
    #[test]
    fn a_key_plan_has_every_place_once_and_stays_on_its_sheet(masses in (1_usize..6).prop_flat_map(|n| (0..n).map(|id| mass(id, false)).collect::<Vec<_>>()), front in prop::option::of(0.0..360.0_f64)) {
        let Some(plan) = key_plan(&of(&masses), front.and_then(|f| Bearing::new(f).ok())) else {
            // Only a building without a rim of its own on some face may have none; one mass always has.
            prop_assert!(masses.len() > 1);
            return Ok(());
        };
        let mut cells: Vec<Cell> = plan.places.cells.iter().map(|c| c.cell).collect();
        cells.sort();
        let mut all = Cell::all();
        all.sort();
        prop_assert_eq!(cells, all);
        let half = plan.places.side / 2.0;
        prop_assert!(plan.places.cells.iter().all(|c| c.x.abs() <= half && c.y.abs() <= half));
        prop_assert!(plan.places.labels.iter().all(|l| l.x.abs() < half && l.y.abs() < half));
        prop_assert!(areas(&plan).iter().all(|(_, a)| a.is_finite() && *a > 0.0));
    }

    /// Around one house each height is a frame: its four pieces make it up and nothing else, and slopes make up the house.
    #[test]
    fn the_heights_around_a_house_are_whole_frames(mass in mass(0, false)) {
        let plan = key_plan(&of(std::slice::from_ref(&mass)), None).unwrap();
        let by = areas(&plan);
        let sum = |zone: Zone| by.iter().filter(|(c, _)| matches!(c, Cell::Outside(_, z) if *z == zone)).map(|(_, a)| a).sum::<f64>();
        let (u, v) = (mass.len_u_m + 2.0 * mass.overhang_m, mass.len_v_m + 2.0 * mass.overhang_m);
        let scale = 208.0 / u.max(v);
        let (u, v) = (u * scale, v * scale);
        for (k, zone) in Zone::OUTSIDE.into_iter().enumerate().skip(1) {
            let (near, far) = ((k as f64 - 1.0) * 12.0 + 1.6, k as f64 * 12.0);
            let frame = (u + 2.0 * far) * (v + 2.0 * far) - (u + 2.0 * near) * (v + 2.0 * near);
            prop_assert!((sum(zone) - frame).abs() < 0.002 * frame, "{zone:?}: {} of {frame}", sum(zone));
        }
        if mass.form == Form::Hip {
            prop_assert!((sum(Zone::Roof) - u * v).abs() < 0.002 * u * v);
        }
    }

    /// A place has the same share of the sheet whichever way the house looks: only the sheet turns.
    #[test]
    fn turning_the_house_turns_its_key_plan(mass in mass(0, false), by in 0.0..360.0_f64) {
        let turned = Mass { rot_deg: by, centre_m: [0.0, 0.0], ..mass.clone() };
        let still = Mass { centre_m: [0.0, 0.0], ..mass };
        let front = Bearing::new((180.0 - by).rem_euclid(360.0)).unwrap();
        let (a, b) = (key_plan(&of(&[still]), None).unwrap(), key_plan(&of(&[turned]), Some(front)).unwrap());
        // The scale follows the span from west to east or south to north: compare shares.
        let share = |plan: &KeyPlan| {
            let roofs: f64 = areas(plan).iter().filter(|(c, _)| matches!(c, Cell::Outside(_, Zone::Roof))).map(|(_, a)| a).sum();
            Face::ALL.map(|f| areas(plan).iter().find(|(c, _)| *c == Cell::Outside(f, Zone::Roof)).unwrap().1 / roofs)
        };
        if a.lines.len() == 5 {
            for (x, y) in share(&a).iter().zip(share(&b)) {
                prop_assert!((x - y).abs() < 0.01, "{x} and {y}");
            }
        }
    }
}
