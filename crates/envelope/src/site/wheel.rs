//! The wheel: the building from above with its faces as sectors in true direction and its zones as rings,
//! from the roof inside to the ground outside. The shape is worked out here once, for the screen and for print.

use super::{Bearing, Cell, Face, Zone};
use serde::{Deserialize, Serialize};

/// One cell of the wheel as a path, in a square of side [`SIDE`] with its origin in the middle.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WheelCell {
    /// Which cell.
    pub cell: Cell,
    /// SVG path data.
    pub path: String,
    /// Where its sign or count stands.
    pub x: f64,
    /// Where its sign or count stands.
    pub y: f64,
}

/// The name of a face beside its sector.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WheelLabel {
    /// The face.
    pub face: Face,
    /// "Rear".
    pub text: String,
    /// "20° NNE", when the front's direction is known.
    pub direction: String,
    /// Middle of the label.
    pub x: f64,
    /// Middle of the label.
    pub y: f64,
}

/// The whole wheel.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Wheel {
    /// Side of the square it is drawn in.
    pub side: f64,
    /// North is known, so the wheel stands in true direction; else the front is at the bottom.
    pub oriented: bool,
    /// Sectors by rings, and the middle.
    pub cells: Vec<WheelCell>,
    /// Names of the faces.
    pub labels: Vec<WheelLabel>,
    /// Degrees by which the plan in the middle is turned clockwise from "front at the bottom".
    pub turn: f64,
}

/// Side of the square the wheel is drawn in.
const SIDE: f64 = 360.0;
/// Radius of the middle.
const MIDDLE: f64 = 40.0;
/// Depth of a ring.
const RING: f64 = 18.0;
/// White between neighbours.
const GAP: f64 = 1.6;

/// Point on a circle, angle in degrees clockwise from up.
fn point(angle: f64, radius: f64) -> (f64, f64) {
    let a = angle.to_radians();
    (radius * a.sin(), -radius * a.cos())
}

/// A ring sector with parallel gaps at its sides, so that the white between sectors is as wide inside as outside.
fn sector(middle: f64, half: f64, r0: f64, r1: f64) -> String {
    let inset = |r: f64| half - (GAP / r).to_degrees();
    let (h0, h1) = (inset(r0), inset(r1));
    let (ax, ay) = point(middle - h1, r1);
    let (bx, by) = point(middle + h1, r1);
    let (cx, cy) = point(middle + h0, r0);
    let (dx, dy) = point(middle - h0, r0);
    format!("M{ax:.2} {ay:.2}A{r1} {r1} 0 0 1 {bx:.2} {by:.2}L{cx:.2} {cy:.2}A{r0} {r0} 0 0 0 {dx:.2} {dy:.2}Z")
}

/// Draws the wheel for a building whose front faces `front`; without it the front is at the bottom.
pub fn wheel(front: Option<Bearing>) -> Wheel {
    let facing = front.unwrap_or(Bearing::new(180.0).expect("south is a direction"));
    let mut cells = Vec::new();
    let mut labels = Vec::new();
    let rim = MIDDLE + RING * Zone::OUTSIDE.len() as f64;
    for face in Face::ALL {
        let middle = face.azimuth(facing).degrees();
        for (i, zone) in Zone::OUTSIDE.into_iter().enumerate() {
            let r0 = MIDDLE + RING * i as f64;
            let (x, y) = point(middle, r0 + (RING - GAP) / 2.0);
            cells.push(WheelCell { cell: Cell::Outside(face, zone), path: sector(middle, 45.0, r0, r0 + RING - GAP), x, y });
        }
        let (x, y) = point(middle, rim + 15.0);
        let direction = front.map(|_| format!("{middle:.0}° {}", face.azimuth(facing).point())).unwrap_or_default();
        labels.push(WheelLabel { face, text: face.name().to_owned(), direction, x, y });
    }
    let r = MIDDLE - 4.0;
    cells.push(WheelCell {
        cell: Cell::Inside,
        path: format!("M0 {:.2}A{r} {r} 0 1 1 0 {r:.2}A{r} {r} 0 1 1 0 {:.2}Z", -r, -r),
        x: 0.0,
        y: 0.0,
    });
    Wheel { side: SIDE, oriented: front.is_some(), cells, labels, turn: facing.turned(180.0).degrees() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_wheel_has_every_cell_once_and_stays_in_its_square() {
        let w = wheel(Bearing::new(200.0).ok());
        let mut cells: Vec<Cell> = w.cells.iter().map(|c| c.cell).collect();
        cells.sort();
        let mut all = Cell::all();
        all.sort();
        assert_eq!(cells, all);
        assert!(w.cells.iter().all(|c| c.x.abs() < SIDE / 2.0 && c.y.abs() < SIDE / 2.0));
        assert!(w.labels.iter().all(|l| l.x.hypot(l.y) < SIDE / 2.0));
    }

    #[test]
    fn sectors_lie_in_true_direction() {
        // A front that faces east is drawn on the right, its left hand toward the south, below.
        let w = wheel(Bearing::new(90.0).ok());
        let at = |key: &str| w.cells.iter().find(|c| c.cell.to_string() == key).map(|c| (c.x, c.y)).unwrap();
        assert!(at("front.ground").0 > 100.0 && at("front.ground").1.abs() < 1e-9);
        assert!(at("left.ground").1 > 100.0 && at("left.ground").0.abs() < 1e-9);
        assert!(at("front.roof").0 < at("front.edge").0, "the roof is the inner ring");
    }

    #[test]
    fn without_a_direction_the_front_is_at_the_bottom() {
        let w = wheel(None);
        assert!(!w.oriented && w.turn == 0.0);
        assert!(w.labels[0].y > 0.0 && w.labels[0].direction.is_empty());
    }
}
