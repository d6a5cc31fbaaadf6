//! Details of a roof and where it meets a wall, seen square to it.

use super::*;

pub(super) fn sidewall(b: &mut Building) {
    let wide = (b.size)("width");
    b.frame(wide, 1.3);
    // The roof falls to the left and its foot is here; left of it and below it the wall goes on.
    let foot = 0.3;
    let middle = 0.5 * (foot + 0.1 + wide);
    let (missing, outside) = ((b.wrong)("no-kickout"), (b.wrong)("steps-outside"));
    b.put("lower-sheet", Barrier, [-PAST, wide + PAST, -PAST, 0.62]);
    let sheets = |b: &mut Building| {
        for (id, x0, x1, z0) in [
            ("left-sheet", -PAST, foot + 0.12, 0.57),
            ("middle-sheet", foot + 0.08, middle + 0.02, 0.69),
            ("right-sheet", middle - 0.02, wide + PAST, 0.81),
        ] {
            b.put(id, Barrier, [x0, x1, z0, 1.4]);
        }
    };
    if outside {
        sheets(b);
    }
    if !missing {
        b.put("kick-out", Flashing, [foot - 0.15, foot + 0.12, 0.42, 0.61]).drip = true;
    }
    // Each throws its water on the roof, but the last one, from which it runs on down the wall.
    for (id, x0, x1, z) in [
        ("low-step", foot - 0.05, foot + 0.1, 0.45),
        ("middle-step", foot + 0.1, middle + 0.05, 0.57),
        ("high-step", middle, wide + PAST, 0.69),
    ] {
        b.put(id, Flashing, [x0, x1, z, z + 0.25]).drip = id != "low-step";
        if outside {
            b.seal(id, SealKind::Sealant, &[PieceEdge::Top]);
        }
    }
    if !outside {
        sheets(b);
    }
    b.put("lower-cladding", Cladding, [-PAST, foot + 0.1, 0.0, if missing { 0.52 } else { 0.41 }]);
    if missing {
        b.seal("lower-cladding", SealKind::Adhered, &[PieceEdge::Bottom]);
    }
    b.put("upper-cladding", Cladding, [-PAST, foot - 0.05, 0.4, 1.4]);
}

pub(super) fn headwall(b: &mut Building) {
    let (wide, lap) = ((b.size)("width"), (b.size)("lap"));
    b.frame(wide, 1.0);
    b.put("underlay", Barrier, [-PAST, wide + PAST, -PAST, 0.3]);
    b.put("shingles", Cladding, [-PAST, wide + PAST, -PAST, 0.28]);
    let (none, outside) = ((b.wrong)("none"), (b.wrong)("outside"));
    if none || outside {
        b.put("upper-sheet", Barrier, [-PAST, wide + PAST, if none { 0.3 } else { 0.33 }, 1.1]);
    }
    if none {
        b.put("mastic", Tape, [-PAST, wide + PAST, 0.27, 0.31]);
        b.seal("mastic", SealKind::Sealant, &ALL_EDGES);
    } else {
        b.put("apron", Flashing, [-PAST, wide + PAST, 0.18, 0.35 + lap]);
    }
    if outside {
        b.seal("apron", SealKind::Sealant, &[PieceEdge::Top]);
    } else if !none {
        b.put("upper-sheet", Barrier, [-PAST, wide + PAST, 0.35, 1.1]);
    }
    if outside {
        // The barrier stops short behind the apron: what gets there finds wood.
        let sheet = b.out.pieces.iter_mut().find(|p| p.id == "upper-sheet");
        sheet.into_iter().for_each(|p| p.z0 = 0.36);
    }
}

pub(super) fn eave_rake(b: &mut Building) {
    let wide = (b.size)("width");
    b.frame(wide, 1.0);
    let under = (b.wrong)("rake-under");
    let rake = [-PAST, 0.08, -0.02, 1.1];
    if under {
        b.put("rake-metal", Flashing, rake);
    }
    let reversed = (b.wrong)("eave-reversed");
    let underlay = [if under { 0.03 } else { 0.0 }, wide + PAST, if reversed { 0.05 } else { -0.01 }, 1.1];
    if reversed {
        b.put("underlay", Barrier, underlay);
        b.put("eave-metal", Flashing, [-PAST, wide + PAST, -0.03, 0.1]);
        b.seal("eave-metal", SealKind::Sealant, &[PieceEdge::Top]);
    } else {
        b.put("eave-metal", Flashing, [-PAST, wide + PAST, -0.03, 0.1]);
        b.put("underlay", Barrier, underlay);
    }
    if !under {
        b.put("rake-metal", Flashing, rake);
    }
    // Water that is driven under the courses runs on the underlay.
    b.put("shingles", Cladding, [0.02, wide + PAST, -0.02, 0.6]);
    if under {
        // Wind across the rake drives it to the edge of the underlay, which lies on the metal.
        b.out.drift = -0.2;
        b.put("deck-edge", Sheathing, [-PAST, -0.005, -PAST, 1.1]);
    }
}

pub(super) fn pipe_shingle(b: &mut Building) {
    let hole = (b.size)("hole");
    let wide = 0.6 + hole;
    b.frame(wide, 1.2);
    let (left, right) = (0.3, 0.3 + hole);
    let (low, high) = (0.5, 0.5 + hole);
    b.out.opening = Some(Hole { x0: left, x1: right, z0: low, z1: high });
    b.put("underlay-left", Barrier, [-PAST, left, -PAST, high + 0.05]);
    b.put("underlay-right", Barrier, [right, wide + PAST, -PAST, high + 0.05]);
    b.put("underlay-below", Barrier, [left - 0.05, right + 0.05, -PAST, low]);
    b.put("underlay-above", Barrier, [-PAST, wide + PAST, high, 1.3]);
    b.put("course-below", Cladding, [-PAST, wide + PAST, -PAST, low]);
    let reversed = (b.wrong)("reversed");
    let above = [-PAST, wide + PAST, high + 0.03, 1.3];
    let (beside_left, beside_right) = ([-PAST, left - 0.02, low - 0.1, high + 0.15], [right + 0.02, wide + PAST, low - 0.1, high + 0.15]);
    if reversed {
        b.put("left-shingle", Cladding, beside_left);
        b.put("right-shingle", Cladding, beside_right);
        b.put("course-above", Cladding, above);
    }
    let (x0, x1, z0, z1) = (left - 0.15, right + 0.15, low - 0.15, high + 0.2);
    if (b.wrong)("torn") {
        let middle = (left + right) / 2.0;
        b.put("boot", Flashing, [x0, x1, high - 0.2 * hole, z1]);
        b.put("boot-left", Flashing, [x0, middle - 0.1 * hole, z0, high - 0.2 * hole]);
        b.put("boot-right", Flashing, [middle + 0.1 * hole, x1, z0, high - 0.2 * hole]);
    } else {
        b.put("boot", Flashing, [x0, x1, z0, z1]);
    }
    if reversed {
        b.seal("boot", SealKind::Sealant, &[PieceEdge::Top, PieceEdge::Left, PieceEdge::Right]);
    } else {
        b.put("left-shingle", Cladding, beside_left);
        b.put("right-shingle", Cladding, beside_right);
        b.put("course-above", Cladding, above);
    }
}

pub(super) fn pipe_tile(b: &mut Building) {
    let hole = (b.size)("hole");
    let wide = 0.8 + hole;
    b.frame(wide, 1.2);
    let (left, right, low, high) = (0.4, 0.4 + hole, 0.5, 0.5 + hole);
    b.out.opening = Some(Hole { x0: left, x1: right, z0: low, z1: high });
    let buried = (b.wrong)("buried");
    b.put("underlay-left", Barrier, [-PAST, left, -PAST, high + 0.05]);
    b.put("underlay-right", Barrier, [right, wide + PAST, -PAST, high + 0.05]);
    b.put("underlay-below", Barrier, [left - 0.05, right + 0.05, if buried { 0.2 } else { -PAST }, low]);
    b.put("underlay-above", Barrier, [-PAST, wide + PAST, high, 1.3]);
    if buried {
        // Worn through along the joint below the pipe, where the flashing leads everything.
        for p in b.out.pieces.iter_mut().filter(|p| p.id == "underlay-left" || p.id == "underlay-right") {
            p.z0 = 0.2;
        }
    }
    let apron = [left - 0.2, right + 0.2, low - 0.2, high + 0.2];
    if buried {
        b.put("apron", Flashing, apron);
    }
    b.put("tiles-below", Cladding, [-PAST, wide + PAST, -PAST, low - 0.02]);
    let above = [-PAST, wide + PAST, high + 0.05, 1.3];
    let reversed = (b.wrong)("reversed");
    if reversed {
        b.put("tiles-above", Cladding, above);
    }
    if !buried {
        b.put("apron", Flashing, apron);
        if reversed {
            b.seal("apron", SealKind::Sealant, &[PieceEdge::Top, PieceEdge::Left, PieceEdge::Right]);
        }
    }
    let (beside_left, beside_right) = ([-PAST, left - 0.04, low - 0.1, high + 0.12], [right + 0.04, wide + PAST, low - 0.1, high + 0.12]);
    if !reversed {
        b.put("left-tile", Cladding, beside_left);
        b.put("right-tile", Cladding, beside_right);
        b.put("tiles-above", Cladding, above);
    }
}
