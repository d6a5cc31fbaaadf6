//! The usual details of a wall, each right and with its usual faults.
//!
//! A template is a few sizes and the order in which its pieces lie: what is named later lies outside. Rules of practice; where
//! the manufacturer or the code says otherwise, they decide.

mod roof;

use super::laps::{Hole, LapsInput, Over, Pan, PanSide, PanSlope, Piece, PieceEdge, PieceKind, Seal, SealKind};
use crate::site::Zone;
use PieceKind::{Barrier, Cladding, Flange, Flashing, Frame, Membrane, Sheathing, Tape, Trim};
use roof::{eave_rake, headwall, pipe_shingle, pipe_tile, sidewall};
use serde::{Deserialize, Serialize};

/// A size of a detail.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Size {
    /// Its name.
    pub key: &'static str,
    /// As it is asked for.
    pub words: &'static str,
    /// While nothing is typed, metres.
    pub usual_m: f64,
    /// The least that makes sense.
    pub least_m: f64,
    /// The most.
    pub most_m: f64,
}

/// A fault a detail is often met with.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Fault {
    /// Its name.
    pub key: &'static str,
    /// As it is said.
    pub words: &'static str,
}

/// A template.
pub struct Form {
    /// Which.
    pub template: Template,
    /// What it is called.
    pub name: &'static str,
    /// Where it is met.
    pub zone: Zone,
    /// The condition its failing is noted as.
    pub condition: &'static str,
    /// Its sizes.
    pub sizes: &'static [Size],
    /// Its usual faults.
    pub faults: &'static [Fault],
    build: fn(&mut Building),
}

macro_rules! templates {
    ($( $(#[doc = $doc:literal])+ $variant:ident = $name:literal, $zone:ident, $condition:literal, $build:ident,
        sizes [$( $skey:literal $swords:literal $usual:literal in $least:literal..$most:literal ),*],
        faults [$( $fkey:literal $fwords:literal ),+]; )+) => {
        /// Which template.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        #[serde(rename_all = "kebab-case")]
        pub enum Template {
            $( $(#[doc = $doc])+ $variant, )+
        }

        /// Every template, from the roof down.
        pub const FORMS: &[Form] = &[$( Form {
            template: Template::$variant, name: $name, zone: Zone::$zone, condition: $condition,
            sizes: &[$( Size { key: $skey, words: $swords, usual_m: $usual, least_m: $least, most_m: $most } ),*],
            faults: &[$( Fault { key: $fkey, words: $fwords } ),+],
            build: $build,
        } ),+];
    };
}

templates! {
    /// Metal at the edge of a roof, seen square to the slope.
    EaveRake = "Eave and rake edge", Edge, "drip-edge-lap-wrong", eave_rake,
        sizes ["width" "Length looked at" 1.2 in 0.4..6.0],
        faults ["eave-reversed" "underlay behind the eave metal, cemented", "rake-under" "rake metal under the underlay"];
    /// A pipe through shingles.
    PipeShingle = "Pipe through shingles", Roof, "pipe-boot-torn", pipe_shingle,
        sizes ["hole" "Hole across" 0.08 in 0.03..0.3],
        faults ["reversed" "boot laid over the shingles above, set in mastic", "torn" "collar torn"];
    /// A pipe through tiles.
    PipeTile = "Pipe through tiles", Roof, "penetration-flashing-buried", pipe_tile,
        sizes ["hole" "Hole across" 0.1 in 0.03..0.3],
        faults ["buried" "flashing ends under the tile, underlay worn through below", "reversed" "apron over the tiles above, glued"];
    /// The upper end of a roof against a wall.
    Headwall = "Roof against a wall above it", UpperWall, "wall-flashing-missing", headwall,
        sizes ["width" "Length looked at" 1.5 in 0.4..6.0, "lap" "Barrier over the apron" 0.1 in 0.02..0.2],
        faults ["outside" "apron's leg outside the barrier, sealed", "none" "no apron, a mastic line"];
    /// A roof that runs along a wall, and the foot of that run.
    SidewallKickout = "Roof along a wall, with its kick-out", UpperWall, "kickout-missing", sidewall,
        sizes ["width" "Length looked at" 1.2 in 0.8..6.0],
        faults ["no-kickout" "no kick-out, cladding closed at its foot", "steps-outside" "step flashing outside the barrier, sealed"];
    /// Sheets of the weather barrier.
    BarrierJoints = "Joints of the barrier", UpperWall, "wrb-seam-open", barrier_joints,
        sizes ["width" "Length looked at" 1.2 in 0.4..6.0, "lap" "Lap of the sheets" 0.15 in 0.0..0.5],
        faults ["reversed" "upper sheet tucked behind the lower, taped", "butted" "sheets butted, taped", "untaped" "upper sheet tucked behind the lower, not taped"];
    /// Metal at a floor line, over a horizontal band.
    FloorLine = "Floor-line flashing over a band", UpperWall, "band-flashing-faulty", floor_line,
        sizes ["width" "Length looked at" 1.5 in 0.4..6.0, "lap" "Barrier over the flashing" 0.1 in 0.02..0.2],
        faults ["outside" "flashing outside the barrier, sealed", "none" "no flashing over the band"];
    /// The ledger of a deck.
    DeckLedger = "Deck ledger", UpperWall, "deck-ledger-unflashed", deck_ledger,
        sizes ["width" "Length looked at" 1.5 in 0.4..6.0],
        faults ["none" "no flashing, board on bare sheathing", "outside" "flashing outside the barrier, sealed"];
    /// A window with a flange.
    Window = "Flanged window", Openings, "flash-tape-lap-reversed", window,
        sizes ["width" "Opening, width" 0.9 in 0.3..4.0, "height" "Opening, height" 1.2 in 0.3..3.0, "lap" "Barrier over the head flange" 0.1 in 0.02..0.3],
        faults ["head-reversed" "head flange over the barrier, taped", "head-untaped" "head flange over the barrier, not taped",
            "frame-leaks" "the frame leaks at its lower joint, onto a level pan", "pan-corner" "pan cut at its left corner, under a frame that leaks",
            "no-pan" "no pan, under a frame that leaks", "foot-sealed" "bottom flange sealed, under a frame that leaks"];
    /// A door.
    Door = "Door", Openings, "flash-tape-lap-reversed", door,
        sizes ["width" "Opening, width" 1.0 in 0.6..5.0, "height" "Opening, height" 2.1 in 1.8..3.0],
        faults ["head-reversed" "head flange over the barrier, taped", "no-end-dams" "pan without end dams, under a threshold that leaks",
            "no-pan" "no pan, under a threshold that leaks"];
    /// Metal over the head of an opening, behind cladding.
    HeadFlashing = "Head flashing", Openings, "window-head-flashing-absent", head_flashing,
        sizes ["width" "Trim, width" 1.1 in 0.3..5.0, "lap" "Barrier over the flashing" 0.08 in 0.02..0.3],
        faults ["outside" "flashing outside the barrier, sealed", "none" "no flashing over the trim"];
    /// The pan of an opening before anything stands in it.
    SillPan = "Sill pan", Openings, "sill-pan-corner-loose", sill_pan,
        sizes ["width" "Opening, width" 0.9 in 0.3..4.0],
        faults ["corner" "cut at its left corner", "level" "level, no back dam", "inward" "falls inward", "no-end-dams" "no end dams",
            "behind" "tucked behind the sheet below"];
    /// A sleeve or duct through the wall.
    Sleeve = "Sleeve or duct", Openings, "service-pipe-gap", sleeve,
        sizes ["hole" "Hole across" 0.15 in 0.03..0.6],
        faults ["unsealed" "flange over the barrier, not taped", "taped-over" "flange over the barrier, taped", "none" "no flange"];
    /// A membrane on the ledge under masonry.
    LedgeMembrane = "Ledge membrane under masonry", Base, "ledge-membrane-misplaced", ledge,
        sizes ["width" "Length looked at" 1.5 in 0.4..6.0, "lap" "Barrier over the membrane" 0.15 in 0.02..0.4],
        faults ["pinned" "membrane pinned to the outside of the barrier, loose at its top", "weeps-closed" "weeps closed with mortar"];
    /// The foot of a framed wall over the edge of its slab.
    WallBase = "Wall base over the slab edge", Base, "slab-edge-lip", wall_base,
        sizes ["width" "Length looked at" 1.5 in 0.4..6.0, "lap" "Barrier over the base flashing" 0.1 in 0.02..0.3],
        faults ["proud" "slab edge stands proud of the barrier", "reversed" "base flashing outside the barrier, not sealed"];
}

impl Template {
    /// All that is known of it.
    pub fn form(self) -> &'static Form {
        FORMS.iter().find(|f| f.template == self).expect("every template has its form")
    }
}

/// A detail being put together: what comes later lies outside.
struct Building<'a> {
    size: &'a dyn Fn(&'static str) -> f64,
    wrong: &'a dyn Fn(&'static str) -> bool,
    out: LapsInput,
}

const PAN: Pan = Pan { slope: PanSlope::Out, back_dam: true, end_dams: true, open_corners: vec![] };

impl Building<'_> {
    fn frame(&mut self, width: f64, top: f64) {
        (self.out.x1, self.out.top) = (width, top);
    }
    fn put(&mut self, id: &str, kind: PieceKind, [x0, x1, z0, z1]: [f64; 4]) -> &mut Piece {
        self.out.pieces.push(Piece { id: id.to_owned(), kind, x0, x1, z0, z1, drip: false, pan: None });
        self.out.pieces.last_mut().expect("just put")
    }
    fn seal(&mut self, id: &str, kind: SealKind, edges: &[PieceEdge]) {
        self.out.seals.extend(edges.iter().map(|edge| Seal { piece: id.to_owned(), edge: *edge, kind }));
    }
}

const ALL_EDGES: [PieceEdge; 4] = [PieceEdge::Top, PieceEdge::Bottom, PieceEdge::Left, PieceEdge::Right];
/// How far a piece reaches past the detail, so that its edge is not in it.
const PAST: f64 = 0.1;
/// What a flange covers beside its opening.
const FLANGE: f64 = 0.035;
/// How far a sheet reaches past what it laps beside an opening.
const BESIDE: f64 = 0.3;

/// What stands in an opening, and how it is set.
struct Set {
    what: &'static str,
    wide: f64,
    high: f64,
    sill: f64,
    lap: f64,
    /// Its head flange lies over the barrier.
    reversed: bool,
    taped: bool,
    /// Its frame or threshold does.
    leaks: bool,
}

/// An opening with sheets round it, its pan, what stands in it, its tapes: the parts a window and a door share.
fn opening(b: &mut Building, Set { what, wide, high, sill, lap, reversed, taped, leaks }: Set) {
    let (left, right, head) = (BESIDE, BESIDE + wide, sill + high);
    let full = wide + 2.0 * BESIDE;
    b.frame(full, head + 0.5);
    b.out.opening = Some(Hole { x0: left, x1: right, z0: sill, z1: head });
    // The head flange is as high as the lap it takes.
    let top = head + FLANGE.max(lap + 0.01);
    b.put("lower-sheet", Barrier, [-PAST, full + PAST, -PAST, sill]);
    b.put("left-sheet", Barrier, [-PAST, left, sill - 0.1, top + 0.12]);
    b.put("right-sheet", Barrier, [right, full + PAST, sill - 0.1, top + 0.12]);
    if reversed {
        b.put("upper-sheet", Barrier, [-PAST, full + PAST, head, head + 0.6]);
    }
    if !(b.wrong)("no-pan") {
        // Usually a level sheet without a back dam: enough as long as nothing falls on it.
        let sloped = ["pan-corner", "no-end-dams", "foot-sealed"].into_iter().any(|f| (b.wrong)(f));
        let mut pan = if sloped { PAN } else { Pan { slope: PanSlope::Level, back_dam: false, ..PAN } };
        if (b.wrong)("pan-corner") {
            pan.open_corners = vec![PanSide::Left];
        }
        pan.end_dams = !(b.wrong)("no-end-dams");
        b.put("sill-pan", PieceKind::Pan, [left - 0.05, right + 0.05, sill - 0.08, sill + 0.001]).pan = Some(pan);
    }
    let (outer, inner, foot) = (left - FLANGE, right + FLANGE, sill - FLANGE);
    if leaks {
        // A joint of the frame: what comes to it falls into the rough opening.
        let joint = if (b.wrong)("pan-corner") || (b.wrong)("no-end-dams") { left + 0.01 } else { left + 0.4 * wide };
        let low = sill + 0.1 * high;
        b.put(what, Flange, [outer, inner, low, top]);
        b.put(&format!("{what}-foot-left"), Flange, [outer, joint - 0.004, foot, low]);
        b.put(&format!("{what}-foot-right"), Flange, [joint + 0.004, inner, foot, low]);
        if (b.wrong)("foot-sealed") {
            for side in ["left", "right"] {
                b.seal(&format!("{what}-foot-{side}"), SealKind::Sealant, &[PieceEdge::Bottom]);
            }
        }
    } else {
        b.put(what, Flange, [outer, inner, foot, top]);
    }
    for (id, x0, x1) in [("left-tape", outer - 0.05, left - 0.005), ("right-tape", right + 0.005, inner + 0.05)] {
        b.put(id, Tape, [x0, x1, foot - 0.03, top + 0.03]);
        b.seal(id, SealKind::Tape, &[PieceEdge::Left, PieceEdge::Right, PieceEdge::Top]);
    }
    if reversed {
        if taped {
            b.put("head-tape", Tape, [outer - 0.08, inner + 0.08, top - 0.025, top + 0.06]);
            b.seal("head-tape", SealKind::Tape, &ALL_EDGES);
        }
    } else {
        b.put("upper-sheet", Barrier, [-PAST, full + PAST, top - lap.max(0.02), head + 0.6]);
    }
}

fn window(b: &mut Building) {
    let (taped, untaped) = ((b.wrong)("head-reversed"), (b.wrong)("head-untaped"));
    let leaks = ["frame-leaks", "pan-corner", "no-pan", "foot-sealed"].into_iter().any(|f| (b.wrong)(f));
    let (wide, high, lap) = ((b.size)("width"), (b.size)("height"), (b.size)("lap"));
    opening(b, Set { what: "window", wide, high, sill: 0.5, lap, reversed: taped || untaped, taped: !untaped, leaks });
}

fn door(b: &mut Building) {
    let leaks = (b.wrong)("no-end-dams") || (b.wrong)("no-pan");
    let (wide, high) = ((b.size)("width"), (b.size)("height"));
    let reversed = (b.wrong)("head-reversed");
    opening(b, Set { what: "door", wide, high, sill: 0.15, lap: 0.1, reversed, taped: true, leaks });
}

fn head_flashing(b: &mut Building) {
    let (wide, lap) = ((b.size)("width"), (b.size)("lap"));
    let (left, right, full) = (BESIDE, BESIDE + wide, wide + 2.0 * BESIDE);
    b.frame(full, 0.9);
    let (none, outside) = ((b.wrong)("none"), (b.wrong)("outside"));
    let foot = if none || outside { 0.4 } else { 0.45 };
    b.put("lower-sheet", Barrier, [-PAST, full + PAST, -PAST, 0.45 + lap]);
    // The wood round the opening, which the trim hides.
    b.put("head-frame", Frame, [left + 0.02, right - 0.02, -PAST, foot + 0.01]);
    if none || outside {
        b.put("upper-sheet", Barrier, [-PAST, full + PAST, foot, 1.0]);
    }
    b.put("trim", Trim, [left, right, -PAST, 0.38]);
    if none {
        b.put("caulk", Tape, [left - 0.01, right + 0.01, 0.37, 0.46]);
        b.seal("caulk", SealKind::Sealant, &ALL_EDGES);
        return;
    }
    b.put("head-flashing", Flashing, [left - 0.02, right + 0.02, 0.36, 0.45 + lap]).drip = true;
    if outside {
        b.seal("head-flashing", SealKind::Sealant, &[PieceEdge::Top, PieceEdge::Left, PieceEdge::Right]);
    } else {
        b.put("upper-sheet", Barrier, [-PAST, full + PAST, foot, 1.0]);
    }
}

fn sill_pan(b: &mut Building) {
    let wide = (b.size)("width");
    let (left, right, full) = (BESIDE, BESIDE + wide, wide + 2.0 * BESIDE);
    b.frame(full, 1.0);
    b.out.opening = Some(Hole { x0: left, x1: right, z0: 0.4, z1: 1.2 });
    let mut pan = PAN;
    if (b.wrong)("level") {
        pan = Pan { slope: PanSlope::Level, back_dam: false, ..pan };
    }
    if (b.wrong)("inward") {
        pan.slope = PanSlope::In;
    }
    if (b.wrong)("corner") {
        pan.open_corners = vec![PanSide::Left];
    }
    pan.end_dams = !(b.wrong)("no-end-dams");
    let at = [left - 0.05, right + 0.05, 0.3, 0.401];
    let behind = (b.wrong)("behind");
    if behind {
        b.put("sill-pan", PieceKind::Pan, at).pan = Some(pan.clone());
    }
    b.put("lower-sheet", Barrier, [-PAST, full + PAST, if behind { 0.32 } else { -PAST }, 0.4]);
    if behind {
        // The sheet ends above the foot of the pan: what is behind it comes out on bare wood.
        b.put("base-sheet", Barrier, [-PAST, full + PAST, -PAST, 0.28]);
    }
    b.put("left-sheet", Barrier, [-PAST, left, 0.3, 1.1]);
    b.put("right-sheet", Barrier, [right, full + PAST, 0.3, 1.1]);
    if !behind {
        b.put("sill-pan", PieceKind::Pan, at).pan = Some(pan);
    }
}

fn barrier_joints(b: &mut Building) {
    let (wide, lap) = ((b.size)("width"), (b.size)("lap"));
    b.frame(wide, 1.2);
    let reversed = (b.wrong)("reversed") || (b.wrong)("untaped");
    let upper = [-PAST, wide + PAST, if (b.wrong)("butted") { 0.6 } else { 0.6 - lap.max(0.02) }, 1.3];
    if reversed {
        b.put("upper-sheet", Barrier, upper);
    }
    // The vertical joint of the lower course: the right sheet over the left one.
    b.put("lower-left-sheet", Barrier, [-PAST, 0.55 * wide, -PAST, 0.6]);
    b.put("lower-right-sheet", Barrier, [0.55 * wide - 0.15, wide + PAST, -PAST, 0.6]);
    if !reversed {
        b.put("upper-sheet", Barrier, upper);
    }
    if (b.wrong)("reversed") || (b.wrong)("butted") {
        b.put("joint-tape", Tape, [-PAST, wide + PAST, 0.56, 0.64]);
        b.seal("joint-tape", SealKind::Tape, &ALL_EDGES);
    }
}

fn floor_line(b: &mut Building) {
    let (wide, lap) = ((b.size)("width"), (b.size)("lap"));
    b.frame(wide, 1.0);
    b.put("lower-sheet", Barrier, [-PAST, wide + PAST, -PAST, 0.4]);
    let (none, outside) = ((b.wrong)("none"), (b.wrong)("outside"));
    if none || outside {
        b.put("upper-sheet", Barrier, [-PAST, wide + PAST, if none { 0.5 } else { 0.45 }, 1.1]);
    }
    b.put("band", Trim, [-PAST, wide + PAST, 0.25, 0.42]);
    if none {
        b.put("caulk", Tape, [-PAST, wide + PAST, 0.4, 0.51]);
        b.seal("caulk", SealKind::Sealant, &ALL_EDGES);
    } else {
        b.put("flashing", Flashing, [-PAST, wide + PAST, 0.39, 0.5 + lap]).drip = true;
    }
    if outside {
        b.seal("flashing", SealKind::Sealant, &[PieceEdge::Top]);
    } else if !none {
        b.put("upper-sheet", Barrier, [-PAST, wide + PAST, 0.5, 1.1]);
    }
}

fn sleeve(b: &mut Building) {
    let hole = (b.size)("hole");
    let wide = 0.6 + hole;
    let (left, right, low, high) = (0.3, 0.3 + hole, 0.4, 0.4 + hole);
    b.frame(wide, high + 0.5);
    b.out.opening = Some(Hole { x0: left, x1: right, z0: low, z1: high });
    b.put("lower-sheet", Barrier, [-PAST, wide + PAST, -PAST, low]);
    b.put("left-sheet", Barrier, [-PAST, left, low - 0.1, high + 0.12]);
    b.put("right-sheet", Barrier, [right, wide + PAST, low - 0.1, high + 0.12]);
    let over = (b.wrong)("unsealed") || (b.wrong)("taped-over");
    if (b.wrong)("none") {
        b.put("upper-sheet", Barrier, [-PAST, wide + PAST, high, high + 0.6]);
        return;
    }
    if over {
        b.put("upper-sheet", Barrier, [-PAST, wide + PAST, high - 0.01, high + 0.6]);
    }
    b.put("flange", Flange, [left - 0.06, right + 0.06, low - 0.06, high + 0.06]);
    if (b.wrong)("taped-over") {
        b.put("head-tape", Tape, [left - 0.12, right + 0.12, high + 0.03, high + 0.1]);
        b.seal("head-tape", SealKind::Tape, &ALL_EDGES);
    }
    if !over {
        b.put("upper-sheet", Barrier, [-PAST, wide + PAST, high + 0.005, high + 0.6]);
    }
}

fn ledge(b: &mut Building) {
    let (wide, lap) = ((b.size)("width"), (b.size)("lap"));
    b.frame(wide, 1.2);
    let pinned = (b.wrong)("pinned");
    if pinned {
        b.put("barrier", Barrier, [-PAST, wide + PAST, 0.12, 1.3]);
    }
    b.put("membrane", Membrane, [-PAST, wide + PAST, -0.01, 0.1 + lap]);
    if !pinned {
        b.put("barrier", Barrier, [-PAST, wide + PAST, 0.1, 1.3]);
    }
    // The masonry stops below the top looked at: water behind it is what this detail is about.
    b.put("masonry", Cladding, [-PAST, wide + PAST, 0.0, 0.8]);
    if (b.wrong)("weeps-closed") {
        b.seal("masonry", SealKind::Adhered, &[PieceEdge::Bottom]);
    }
}

fn wall_base(b: &mut Building) {
    let (wide, lap) = ((b.size)("width"), (b.size)("lap"));
    b.frame(wide, 1.0);
    let reversed = (b.wrong)("reversed");
    if reversed {
        b.put("barrier", Barrier, [-PAST, wide + PAST, 0.18, 1.1]);
    }
    b.put("base-flashing", Flashing, [-PAST, wide + PAST, -PAST, 0.2 + lap]);
    if !reversed {
        b.put("barrier", Barrier, [-PAST, wide + PAST, 0.2, 1.1]);
    }
    if (b.wrong)("proud") {
        b.put("slab-edge", Trim, [-PAST, wide + PAST, 0.0, 0.15]);
        // Cast against the wall: what stands behind it has no way out below.
        b.seal("slab-edge", SealKind::Adhered, &[PieceEdge::Bottom]);
    }
}

fn deck_ledger(b: &mut Building) {
    let wide = (b.size)("width");
    b.frame(wide, 1.0);
    let (none, outside) = ((b.wrong)("none"), (b.wrong)("outside"));
    b.put("lower-sheet", Barrier, [-PAST, wide + PAST, -PAST, if none { 0.32 } else { 0.5 }]);
    if none || outside {
        b.put("upper-sheet", Barrier, [-PAST, wide + PAST, if none { 0.6 } else { 0.58 }, 1.1]);
    }
    b.put("ledger", Frame, [-PAST, wide + PAST, 0.3, 0.55]);
    if none {
        return;
    }
    b.put("flashing", Flashing, [-PAST, wide + PAST, 0.28, 0.7]).drip = true;
    if outside {
        b.seal("flashing", SealKind::Sealant, &[PieceEdge::Top]);
    } else {
        b.put("upper-sheet", Barrier, [-PAST, wide + PAST, 0.6, 1.1]);
    }
}

/// A template with its sizes and faults as a detail: for every two pieces that overlap, the later one outside.
pub fn build(form: &Form, size: &dyn Fn(&'static str) -> f64, wrong: &dyn Fn(&'static str) -> bool) -> LapsInput {
    let out = LapsInput {
        x0: 0.0,
        x1: 1.0,
        top: 1.0,
        bottom: 0.0,
        drift: 0.0,
        pieces: vec![],
        over: vec![],
        seals: vec![],
        opening: None,
        covered: vec![],
        installed: None,
        lap_minimum: Default::default(),
    };
    let mut b = Building { size, wrong, out };
    (form.build)(&mut b);
    let mut out = b.out;
    out.over = in_order(&out.pieces);
    out
}

/// Pairs of a list in which the later of two pieces that overlap lies outside.
pub fn in_order(pieces: &[Piece]) -> Vec<Over> {
    let mut over = vec![];
    for (k, outer) in pieces.iter().enumerate() {
        for inner in &pieces[..k] {
            let wide = outer.x1.min(inner.x1) - outer.x0.max(inner.x0);
            let high = outer.z1.min(inner.z1) - outer.z0.max(inner.z0);
            if wide > super::laps::TINY_M && high > super::laps::TINY_M {
                over.push(Over { outer: outer.id.clone(), inner: inner.id.clone() });
            }
        }
    }
    over
}

#[cfg(test)]
mod tests {
    use super::super::laps::{LapVerdict, laps};
    use super::*;

    fn verdict(form: &Form, fault: Option<&str>, size: &dyn Fn(&Size) -> f64) -> LapVerdict {
        let sized = |key: &'static str| size(form.sizes.iter().find(|s| s.key == key).unwrap());
        let input = build(form, &sized, &|f| fault == Some(f));
        laps(&input).unwrap_or_else(|e| panic!("{}, {fault:?}: {e}", form.name)).verdict
    }

    /// Right at the usual sizes and at both ends of each, and what each fault makes of it.
    #[test]
    fn every_template_is_right_and_each_of_its_faults_is_not() {
        let (mut said, mut off) = (String::new(), vec![]);
        for form in FORMS {
            for size in [|s: &Size| s.usual_m, |s: &Size| s.least_m, |s: &Size| s.most_m] {
                let v = verdict(form, None, &size);
                if v != LapVerdict::Right {
                    off.push(format!("{} should be right and is {}", form.name, v.words()));
                }
            }
            assert!(crate::finding::catalogue().get(form.condition).is_some(), "{}", form.condition);
            said.push_str(form.name);
            for f in form.faults {
                let v = verdict(form, Some(f.key), &|s| s.usual_m);
                if v == LapVerdict::Right {
                    off.push(format!("{}: {} should not be right", form.name, f.words));
                }
                said.push_str(&format!("\n  {}: {}", f.words, v.words()));
            }
            said.push('\n');
        }
        assert!(off.is_empty(), "{off:#?}");
        insta::assert_snapshot!(said);
    }
}
