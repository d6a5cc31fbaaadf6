//! Laws of laps on generated details, and everything that is refused.

use envelope::wall::laps::{
    End, Hole, LapVerdict, LapsInput, LapsOut, Over, Pan, PanSide, PanSlope, Piece, PieceEdge, PieceKind, Seal, SealKind, laps,
};
use envelope::wall::templates::in_order;
use proptest::prelude::*;

const KINDS: [PieceKind; 10] = [
    PieceKind::Barrier,
    PieceKind::Tape,
    PieceKind::Flange,
    PieceKind::Flashing,
    PieceKind::Pan,
    PieceKind::Membrane,
    PieceKind::Cladding,
    PieceKind::Trim,
    PieceKind::Sheathing,
    PieceKind::Frame,
];
const EDGES: [PieceEdge; 4] = [PieceEdge::Top, PieceEdge::Bottom, PieceEdge::Left, PieceEdge::Right];
const SEALS: [SealKind; 3] = [SealKind::Tape, SealKind::Sealant, SealKind::Adhered];

/// For every two pieces that overlap, the later one outside.
fn in_layers(i: LapsInput) -> LapsInput {
    LapsInput { over: in_order(&i.pieces), ..i }
}

fn piece(id: usize, kind: PieceKind, [x0, x1, z0, z1]: [f64; 4]) -> Piece {
    Piece { id: format!("p{id}"), kind, x0, x1, z0, z1, drip: false, pan: None }
}

fn blank(pieces: Vec<Piece>) -> LapsInput {
    LapsInput {
        x0: 0.0,
        x1: 1.0,
        top: 1.0,
        bottom: 0.0,
        drift: 0.0,
        pieces,
        over: vec![],
        seals: vec![],
        opening: None,
        covered: vec![],
        installed: None,
        lap_minimum: Default::default(),
    }
}

prop_compose! {
    /// A rectangle on a grid of 50 mm, which makes flush edges, moved a little, which unmakes some of them.
    fn rect()(x in 0..16i32, w in 2..12i32, z in -2..17i32, h in 2..12i32, moved in prop::option::weighted(0.5, (0.0..0.04, 0.0..0.04))) -> [f64; 4] {
        let (dx, dz) = moved.unwrap_or_default();
        [f64::from(x) * 0.05 + dx, f64::from(x + w) * 0.05 + dx, f64::from(z) * 0.05 + dz, f64::from(z + h) * 0.05 + dz]
    }
}

/// Any detail that can be: pieces in layers, some sealed, some with a drip, perhaps an opening with a pan, perhaps drift.
fn detail(kinds: usize) -> impl Strategy<Value = LapsInput> {
    let one = (rect(), 0..kinds, prop::bool::weighted(0.2), prop::option::weighted(0.3, (0..3usize, any::<[bool; 4]>())));
    let sealed = (0..8usize, 0..4usize, 0..3usize);
    (
        prop::collection::vec(one, 1..8),
        prop::collection::vec(sealed, 0..8),
        prop::option::of((2..10i32, 3..8i32, 3..10i32)),
        prop_oneof![Just(0.0), -0.5..0.5],
    )
        .prop_map(|(ones, seals, opening, drift)| {
            let pieces: Vec<Piece> = ones
                .into_iter()
                .enumerate()
                .map(|(k, (r, kind, drip, pan))| Piece {
                    drip,
                    pan: pan.map(|(slope, [back, ends, left, right])| Pan {
                        slope: [PanSlope::Out, PanSlope::Level, PanSlope::In][slope],
                        back_dam: back,
                        end_dams: ends,
                        open_corners: [(left, PanSide::Left), (right, PanSide::Right)]
                            .into_iter()
                            .filter_map(|(o, s)| o.then_some(s))
                            .collect(),
                    }),
                    ..piece(k, KINDS[kind], r)
                })
                .collect();
            let n = pieces.len();
            let seals = seals.into_iter().map(|(p, e, k)| Seal { piece: format!("p{}", p % n), edge: EDGES[e], kind: SEALS[k] }).collect();
            let opening = opening.map(|(x, w, z)| {
                let (x, w, z) = (f64::from(x) * 0.05, f64::from(w) * 0.05, f64::from(z) * 0.05);
                Hole { x0: x, x1: x + w, z0: z, z1: z + 0.3 }
            });
            in_layers(LapsInput { seals, opening, drift, ..blank(pieces) })
        })
}

/// A detail in which nothing lies where no water comes; the others are refused, which is tested apart.
fn worked(i: &LapsInput) -> Option<LapsOut> {
    match laps(i) {
        Ok(out) => Some(out),
        Err(e) => {
            assert!(e.to_string().contains("outside the detail"), "{e}");
            None
        }
    }
}

fn mirrored(i: &LapsInput) -> LapsInput {
    let mut m = i.clone();
    let flip = |x0: &mut f64, x1: &mut f64| (*x0, *x1) = (1.0 - *x1, 1.0 - *x0);
    m.drift = -m.drift;
    for p in &mut m.pieces {
        flip(&mut p.x0, &mut p.x1);
        for side in p.pan.iter_mut().flat_map(|p| &mut p.open_corners) {
            *side = if *side == PanSide::Left { PanSide::Right } else { PanSide::Left };
        }
    }
    if let Some(o) = &mut m.opening {
        flip(&mut o.x0, &mut o.x1);
    }
    for s in &mut m.seals {
        s.edge = match s.edge {
            PieceEdge::Left => PieceEdge::Right,
            PieceEdge::Right => PieceEdge::Left,
            e => e,
        };
    }
    m
}

/// What every drop does, by where it arrives: its end and what it wets, width by width.
fn by_width(out: &LapsOut, aged: bool) -> Vec<(f64, f64, End, String)> {
    let state = if aged { &out.aged } else { &out.sound };
    state.strips.iter().map(|s| (s.x_from, s.x_to, s.end, format!("{:?}", s.wets))).collect()
}

/// Without what lies where no water comes.
fn within(i: &LapsInput) -> LapsInput {
    let mut n = i.clone();
    let carried = n.drift * (n.top - n.bottom);
    let (left, right) = (n.x0 + carried.min(0.0), n.x1 + carried.max(0.0));
    n.pieces.retain(|p| p.x1.min(right) - p.x0.max(left) > 1e-9);
    if n.opening.is_some_and(|o| o.x1.min(right) - o.x0.max(left) <= 1e-9) {
        n.opening = None;
    }
    let there = |id: &String| n.pieces.iter().any(|p| p.id == *id);
    n.over.retain(|o| there(&o.outer) && there(&o.inner));
    n.seals.retain(|s| there(&s.piece));
    n
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn mirroring_the_detail_mirrors_the_result(i in detail(10)) {
        let (Some(a), Some(b)) = (worked(&i), worked(&mirrored(&i))) else { return Ok(()) };
        for aged in [false, true] {
            let mut back: Vec<_> = by_width(&b, aged).into_iter().map(|(f, t, e, w)| (1.0 - t, 1.0 - f, e, w)).collect();
            back.reverse();
            let there = by_width(&a, aged);
            prop_assert_eq!(there.len(), back.len());
            for (p, q) in there.iter().zip(&back) {
                prop_assert!((p.0 - q.0).abs() < 2e-6 && (p.1 - q.1).abs() < 2e-6 && p.2 == q.2 && p.3 == q.3, "{:?} {:?}", p, q);
            }
        }
        prop_assert_eq!((a.verdict, a.order.len(), a.mending.len()), (b.verdict, b.order.len(), b.mending.len()));
    }

    #[test]
    fn a_finer_cut_of_the_width_changes_nothing(i in detail(10), at in prop::collection::vec(0.0..1.0f64, 1..4)) {
        let Some(whole) = worked(&i) else { return Ok(()) };
        let mut ends = at;
        ends.extend([0.0, 1.0]);
        ends.sort_by(f64::total_cmp);
        let mut shares = [0.0, 0.0];
        for w in ends.windows(2).filter(|w| w[1] - w[0] > 1e-4) {
            let part = laps(&within(&LapsInput { x0: w[0], x1: w[1], ..i.clone() })).unwrap();
            for (k, s) in [&part.sound, &part.aged].into_iter().enumerate() {
                shares[k] += s.share_in * (w[1] - w[0]);
                // The drop of each narrow strip does what the wide one said of its place.
                for s in &s.strips {
                    let middle = 0.5 * (s.x_from + s.x_to);
                    let wide = &[&whole.sound, &whole.aged][k].strips;
                    let said = wide.iter().find(|t| t.x_from - 1e-6 <= middle && middle <= t.x_to + 1e-6).unwrap();
                    prop_assert!(s.x_to - s.x_from < 1e-5 || (s.end, &s.wets) == (said.end, &said.wets), "at {middle}: {s:?} {said:?}");
                }
            }
        }
        prop_assert!((shares[0] - whole.sound.share_in).abs() < 1e-3 && (shares[1] - whole.aged.share_in).abs() < 1e-3);
    }

    /// Sheets that cover the width, each row over the one below; side laps as they come.
    #[test]
    fn where_every_stacked_pair_is_shingled_no_water_gets_in(rows in prop::collection::vec((0.06..0.2f64, prop::collection::vec((0.05..0.4f64, any::<bool>()), 0..4)), 2..6), seals in prop::collection::vec((0..12usize, 0..3usize), 0..6)) {
        let mut pieces: Vec<Piece> = vec![];
        let mut top = 0.0;
        for (lap, joints) in &rows {
            let (z0, z1) = (top - lap, top + 0.25);
            let mut x = -0.1;
            for (wide, butted) in joints {
                pieces.push(piece(pieces.len(), PieceKind::Barrier, [x, x + wide, z0, z1]));
                x += wide - if *butted { 0.0 } else { 0.03 };
            }
            pieces.push(piece(pieces.len(), PieceKind::Barrier, [x, 1.1, z0, z1]));
            top = z1;
        }
        pieces.retain(|p| p.x0 < 1.0 - 1e-6 && p.x1 > 1e-6);
        let mut i = in_layers(LapsInput { top: top - 1e-3, ..blank(pieces) });
        // Every seal but one at a foot, which may hold water back.
        i.seals = seals.into_iter().filter_map(|(p, e)| Some(Seal { piece: i.pieces.get(p)?.id.clone(), edge: [PieceEdge::Top, PieceEdge::Left, PieceEdge::Right][e], kind: SealKind::Tape })).collect();
        let out = laps(&i).unwrap();
        prop_assert!(out.laps.iter().all(|l| l.shingled));
        prop_assert_eq!((out.sound.share_in, out.aged.share_in, out.verdict), (0.0, 0.0, LapVerdict::Right));
        prop_assert!(out.mending.is_empty());
    }

    /// On what may get wet, along one line: a seal keeps a drop as far out as it was, or farther. It may still be held.
    #[test]
    fn another_seal_makes_it_worse_only_by_holding_water_back(i in detail(8), p in 0..8usize, e in 0..4usize) {
        let i = if i.drift == 0.0 { i } else { LapsInput { opening: None, ..i } };
        let Some(before) = worked(&i) else { return Ok(()) };
        let mut more = i.clone();
        more.seals.push(Seal { piece: format!("p{}", p % i.pieces.len()), edge: EDGES[e], kind: SealKind::Tape });
        let after = laps(&more).unwrap();
        for (b, a) in before.sound.strips.iter().zip(&after.sound.strips) {
            prop_assert!(!b.right || a.right || a.end == End::Held, "{b:?}\n{a:?}");
        }
        // What ages away does nothing once it has.
        prop_assert_eq!(before.aged, after.aged);
    }

    /// The smallest sets, against trying every set of that many and fewer.
    #[test]
    fn mending_finds_all_smallest_sets(i in detail(10)) {
        let Some(out) = worked(&i) else { return Ok(()) };
        if i.over.len() > 14 || out.aged.share_in == 0.0 {
            prop_assert!(out.aged.share_in > 0.0 || out.mending.is_empty());
            return Ok(());
        }
        let share = |set: &[usize]| {
            let mut t = i.clone();
            for k in set {
                let o = &mut t.over[*k];
                std::mem::swap(&mut o.outer, &mut o.inner);
            }
            // A set that makes a ring is none.
            (laps_share(&t), set.iter().map(|k| t.over[*k].clone()).collect::<Vec<_>>())
        };
        let n = i.over.len();
        let sets = |size: usize| -> Vec<Vec<usize>> {
            let all = (0..1usize << n).filter(|m| m.count_ones() as usize == size);
            all.map(|m| (0..n).filter(|k| m >> k & 1 == 1).collect()).collect()
        };
        let mut found: Vec<Vec<Over>> = vec![];
        for size in 1..=3 {
            found = sets(size).iter().map(|s| share(s)).filter(|(s, _)| *s == Some(0.0)).map(|(_, mut o)| { o.sort(); o }).collect();
            if !found.is_empty() { break }
        }
        found.sort();
        let got: Vec<Vec<Over>> = out.mending.iter().map(|m| m.reverse.clone()).collect();
        prop_assert_eq!(got, found);
        prop_assert!(!out.mending_unfinished && out.mending.iter().all(|m| m.share_in_after == 0.0));
    }
}

fn laps_share(i: &LapsInput) -> Option<f64> {
    laps(i).ok().map(|o| o.aged.share_in)
}

/// A wall of sheets in courses, each of many, with its laps right.
fn wall(courses: usize, by: usize) -> LapsInput {
    let (high, wide) = (1.0 / courses as f64, 1.0 / by as f64);
    let mut pieces = vec![];
    for c in 0..courses {
        for k in 0..by {
            let (x, z) = (k as f64 * wide, c as f64 * high);
            pieces.push(piece(pieces.len(), PieceKind::Barrier, [x - 0.1 * wide, x + wide, z - 0.3 * high, z + high]));
        }
    }
    in_layers(blank(pieces))
}

#[test]
fn a_large_wall_is_answered_and_one_that_cannot_be_followed_is_refused_with_the_reason() {
    let out = laps(&wall(50, 20)).unwrap();
    assert_eq!((out.verdict, out.order.len(), out.sound.share_in), (LapVerdict::Right, 1000, 0.0));
    // One lap in a thousand turned is found, and turning it back mends the wall.
    let mut turned = wall(1000, 1);
    let k = turned.over.iter().position(|o| o.outer == "p501").unwrap();
    let right = turned.over[k].clone();
    turned.over[k] = Over { outer: right.inner.clone(), inner: right.outer.clone() };
    let out = laps(&turned).unwrap();
    assert_eq!(out.verdict, LapVerdict::Wrong);
    let turns: Vec<&[Over]> = out.mending.iter().map(|m| &m.reverse[..]).collect();
    assert_eq!(turns, [&[right][..]]);
    // Nothing in line with anything else, and wind: every corner is a mark of its own.
    let mut loose = wall(40, 50);
    for (k, p) in loose.pieces.iter_mut().enumerate() {
        let moved = 0.001 * ((k * k) as f64).sin();
        (p.x0, p.x1) = (p.x0 + moved, p.x1 + moved);
    }
    let huge = laps(&in_layers(LapsInput { drift: 0.3, ..loose })).map(|_| ()).unwrap_err().to_string();
    assert!(huge.contains("Cut the wall into smaller details"), "{huge}");
    let many = laps(&wall(50, 41)).map(|_| ()).unwrap_err().to_string();
    assert!(many.contains("2050 pieces are too many"), "{many}");
}

#[test]
fn what_cannot_be_is_refused_by_name() {
    let two = || {
        let mut i = blank(vec![piece(0, PieceKind::Barrier, [0.0, 1.0, 0.0, 0.6]), piece(1, PieceKind::Barrier, [0.0, 1.0, 0.5, 1.0])]);
        i.over = vec![Over { outer: "p1".into(), inner: "p0".into() }];
        i
    };
    assert_eq!(laps(&two()).unwrap().verdict, LapVerdict::Right);
    let pair = |outer: &str, inner: &str| Over { outer: outer.into(), inner: inner.into() };
    type Change = (&'static str, fn(&mut LapsInput));
    let changes: [Change; 18] = [
        ("no pair", |i| i.over.clear()),
        ("unknown outer", |i| i.over[0].outer = "p9".into()),
        ("both ways", |i| i.over.push(Over { outer: "p0".into(), inner: "p1".into() })),
        ("over itself", |i| i.over[0].outer = "p0".into()),
        ("one name twice", |i| i.pieces[1].id = "p0".into()),
        ("no name", |i| i.pieces[1].id = " ".into()),
        ("no size", |i| i.pieces[1].x1 = 0.0),
        ("upside down", |i| i.pieces[0].z1 = -0.5),
        ("below the bottom", |i| i.pieces[0] = piece(0, PieceKind::Trim, [0.0, 1.0, -2.0, 0.0])),
        ("beside the width", |i| i.pieces[0] = piece(0, PieceKind::Trim, [1.0, 2.0, 0.0, 1.0])),
        ("no number", |i| i.pieces[0].x0 = f64::NAN),
        ("too far", |i| i.top = 1e12),
        ("no width", |i| i.x1 = 0.0),
        ("no height", |i| i.bottom = 1.0),
        ("sill at the bottom", |i| i.opening = Some(Hole { x0: 0.2, x1: 0.5, z0: 0.0, z1: 0.4 })),
        ("seal of nothing", |i| i.seals.push(Seal { piece: "q".into(), edge: PieceEdge::Top, kind: SealKind::Tape })),
        ("installed unknown", |i| i.installed = Some(vec!["p0".into(), "roof".into()])),
        ("covered unknown", |i| i.covered.push(Over { outer: "q".into(), inner: "p0".into() })),
    ];
    let mut said = String::new();
    for (name, change) in changes {
        let mut i = two();
        change(&mut i);
        said.push_str(&format!("{name}: {}\n", laps(&i).unwrap_err()));
    }
    let mut ring = blank((0..3).map(|k| piece(k, PieceKind::Barrier, [0.0, 1.0, 0.1 * k as f64, 0.8])).collect());
    ring.over = vec![pair("p0", "p1"), pair("p1", "p2"), pair("p2", "p0")];
    said.push_str(&format!("ring: {}\n", laps(&ring).unwrap_err()));
    insta::assert_snapshot!(said);
}

#[test]
fn pieces_woven_in_a_ring_that_no_place_shows_have_no_order() {
    // Four flaps of a box, each over the next.
    let at = [[0.0, 0.6, 0.5, 1.0], [0.5, 1.0, 0.4, 1.0], [0.4, 1.0, 0.0, 0.5], [0.0, 0.5, 0.0, 0.6]];
    let mut i = blank(at.into_iter().enumerate().map(|(k, r)| piece(k, PieceKind::Barrier, r)).collect());
    let pair = |a: usize, b: usize| Over { outer: format!("p{a}"), inner: format!("p{b}") };
    i.over = vec![pair(0, 1), pair(1, 2), pair(2, 3), pair(3, 0)];
    let out = laps(&i).unwrap();
    assert!(out.order.is_empty() && out.woven.len() == 4);
    i.over[3] = pair(0, 3);
    assert_eq!(laps(&i).unwrap().order, ["p3", "p2", "p1", "p0"]);
}
