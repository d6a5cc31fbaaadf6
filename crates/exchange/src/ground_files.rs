//! Readings as open files: CSV and GeoJSON, in and out. Files are read row by row: however long they are, memory stays small.

use envelope::ground::record::{How, MOST_SPOTS, SpotRecord, Spotted, Top};
use envelope::ground::survey::GroundAccount;
use envelope::measure::{self, Quantity, Units};
use envelope::site::Face;
use geojson::{Feature, FeatureCollection, FeatureReader, GeoJson, Geometry, Value as Shape};
use serde::{Deserialize, Serialize};
use serde_json::json;
use std::collections::BTreeSet;
use std::io::{Read, Write};
use utoipa::ToSchema;

/// The unit of bare numbers in a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum FileUnit {
    /// Metres.
    #[default]
    M,
    /// Millimetres.
    Mm,
    /// Feet.
    Ft,
    /// Inches.
    In,
}

impl FileUnit {
    fn metres(self) -> f64 {
        match self {
            FileUnit::M => 1.0,
            FileUnit::Mm => 1e-3,
            FileUnit::Ft => 0.3048,
            FileUnit::In => 0.0254,
        }
    }
}

/// Which column is what; found by their names while nothing is said.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default, deny_unknown_fields)]
pub struct Columns {
    /// The name of the reading.
    pub id: Option<String>,
    /// To the right of the front left corner, or along a face.
    pub along: Option<String>,
    /// To the rear of it, or out from a face.
    pub out: Option<String>,
    /// The height above the floor.
    pub height: Option<String>,
    /// The face, when places are by faces.
    pub face: Option<String>,
}

/// A row that cannot be read.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct BadRow {
    /// Its line in the file, from 1; of GeoJSON the feature.
    pub line: u64,
    /// What is wrong with it.
    pub message: String,
}

/// What a file holds; nothing is kept by looking.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ReadingsFile {
    /// The columns there are.
    pub columns: Vec<String>,
    /// Which was taken for what.
    pub taken: Columns,
    /// Rows read.
    pub rows: u64,
    /// Rows that cannot be read; the first hundred.
    pub bad: Vec<BadRow>,
    /// All of them.
    pub bad_rows: u64,
    /// Good rows left out because another reading stands within a hand's breadth, or there are too many.
    pub thinned: u64,
    /// The readings that would be kept.
    pub spots: Vec<SpotRecord>,
    /// What the file holds, in a sentence.
    pub words: String,
}

/// Why a file cannot be read at all.
#[derive(Debug, thiserror::Error)]
pub enum ReadingsError {
    /// It is no such file.
    #[error("{0}")]
    Form(String),
    /// A column is missing.
    #[error("No column is the {what}. The file has: {have}. Say which one it is.")]
    Column {
        /// What is missing.
        what: &'static str,
        /// What there is.
        have: String,
    },
}

const SHOWN_BAD: usize = 100;
/// Readings nearer than this say the same, metres.
const HAND_M: f64 = 0.1;

struct Gather {
    out: ReadingsFile,
    taken_places: BTreeSet<(Option<Face>, i64, i64)>,
    ids: BTreeSet<String>,
}

impl Gather {
    fn new(columns: Vec<String>, taken: Columns) -> Gather {
        let out = ReadingsFile { columns, taken, rows: 0, bad: vec![], bad_rows: 0, thinned: 0, spots: vec![], words: String::new() };
        Gather { out, taken_places: BTreeSet::new(), ids: BTreeSet::new() }
    }
    fn bad(&mut self, line: u64, message: String) {
        self.out.bad_rows += 1;
        if self.out.bad.len() < SHOWN_BAD {
            self.out.bad.push(BadRow { line, message });
        }
    }
    fn good(&mut self, id: Option<String>, face: Option<Face>, [along, out, z]: [f64; 3], top: Top) {
        let place = (face, (along / HAND_M).round() as i64, (out / HAND_M).round() as i64);
        if self.out.spots.len() >= MOST_SPOTS || !self.taken_places.insert(place) {
            self.out.thinned += 1;
            return;
        }
        let named = id.map(|i| i.trim().chars().take(20).collect::<String>()).filter(|i| !i.is_empty());
        // A row without a name of its own is called by its place in the file, or by the next one that is free.
        let numbered = (self.out.rows..).map(|n| format!("R{n}"));
        let Some(id) = named.into_iter().chain(numbered).find(|i| self.ids.insert(i.clone())) else { return };
        let m = |v: f64| format!("{v:.3} m");
        self.out.spots.push(SpotRecord {
            id,
            at: Spotted { mass: String::new(), face, along: m(along), out: m(out) },
            height: m(z),
            top,
            how: How::File,
        });
    }
    fn done(mut self) -> ReadingsFile {
        let o = &mut self.out;
        o.words = format!("{} readings in {} rows", o.spots.len(), o.rows);
        if o.thinned > 0 {
            o.words.push_str(&format!("; {} stand within a hand's breadth of another, or are more than fit, and are left out", o.thinned));
        }
        if o.bad_rows > 0 {
            o.words.push_str(&format!("; {} rows cannot be read", o.bad_rows));
        }
        o.words.push('.');
        self.out
    }
}

/// A number in the file's unit, or with its own.
fn number(text: &str, unit: FileUnit) -> Result<f64, String> {
    let t = text.trim().replace('−', "-");
    if let Ok(v) = t.parse::<f64>() {
        return if v.is_finite() { Ok(v * unit.metres()) } else { Err(format!("\u{201c}{t}\u{201d} is no number.")) };
    }
    let (sign, rest) = t.strip_prefix('-').map_or((1.0, t.as_str()), |r| (-1.0, r));
    match measure::parse(rest) {
        Ok(m) if m.quantity == Quantity::Length => Ok(sign * m.si),
        _ => Err(format!("\u{201c}{}\u{201d} is no length.", t.chars().take(40).collect::<String>())),
    }
}

fn face_of(text: &str) -> Result<Option<Face>, String> {
    match text.trim().to_lowercase().as_str() {
        "" => Ok(None),
        "front" => Ok(Some(Face::Front)),
        "left" => Ok(Some(Face::Left)),
        "rear" => Ok(Some(Face::Rear)),
        "right" => Ok(Some(Face::Right)),
        other => {
            Err(format!("\u{201c}{}\u{201d} is no face. Write front, left, rear or right.", other.chars().take(40).collect::<String>()))
        }
    }
}

/// Farther than this from the building, or higher, a reading is in another unit, metres.
const FAR_M: f64 = 300.0;
const HIGH_M: f64 = 30.0;

fn fits(v: [f64; 3]) -> Result<[f64; 3], String> {
    if v[0].abs() > FAR_M || v[1].abs() > FAR_M {
        return Err(format!("{} is another lot. Is the unit of the file right?", Units::MetricUs.length(v[0].abs().max(v[1].abs()), 0)));
    }
    if v[2].abs() > HIGH_M {
        return Err(format!("{} from the floor is a cliff. Is the unit of the file right?", Units::MetricUs.length(v[2], 1)));
    }
    Ok(v)
}

/// Reads readings from CSV with a header row.
///
/// # Errors
/// [`ReadingsError`] when it is no such file or a column is missing; rows that cannot be read are listed in the answer.
pub fn read_readings_csv(file: impl Read, unit: FileUnit, columns: &Columns) -> Result<ReadingsFile, ReadingsError> {
    let form = |e: csv::Error| ReadingsError::Form(format!("This is no CSV file Trowel can read: {e}."));
    let mut csv = csv::ReaderBuilder::new().flexible(true).trim(csv::Trim::All).from_reader(file);
    let names: Vec<String> = csv.headers().map_err(form)?.iter().map(str::to_owned).collect();
    let find = |said: &Option<String>, usual: &[&str]| -> Option<usize> {
        let same = |n: &String, w: &str| n.eq_ignore_ascii_case(w);
        match said {
            Some(s) => names.iter().position(|n| same(n, s)),
            None => usual.iter().find_map(|u| names.iter().position(|n| same(n, u))),
        }
    };
    let have = || names.join(", ");
    let need = |k: Option<usize>, what: &'static str| k.ok_or_else(|| ReadingsError::Column { what, have: have() });
    let id = find(&columns.id, &["id", "point", "name"]);
    let face = find(&columns.face, &["face", "side"]);
    let along = need(find(&columns.along, &["along", "x", "station", "east"]), "place along")?;
    let out = need(find(&columns.out, &["out", "y", "distance", "north"]), "distance out")?;
    let height = need(find(&columns.height, &["height", "z", "elevation", "level"]), "height")?;
    let top = find(&None, &["top", "surface"]);
    let name = |k: usize| Some(names[k].clone());
    let taken = Columns { id: id.and_then(name), along: name(along), out: name(out), height: name(height), face: face.and_then(name) };
    let mut g = Gather::new(names.clone(), taken);
    // One row's memory serves all of them.
    let mut row = csv::StringRecord::new();
    loop {
        let line = csv.position().line();
        match csv.read_record(&mut row) {
            Ok(false) => break,
            Err(e) => {
                g.out.rows += 1;
                g.bad(
                    e.position().map_or(line, csv::Position::line),
                    format!(
                        "This row cannot be read: {}.",
                        if matches!(e.kind(), csv::ErrorKind::Utf8 { .. }) { "it is not UTF-8 text" } else { "its form is broken" }
                    ),
                );
                if !matches!(e.kind(), csv::ErrorKind::Utf8 { .. } | csv::ErrorKind::UnequalLengths { .. }) {
                    break;
                }
                continue;
            }
            Ok(true) => {}
        }
        g.out.rows += 1;
        let line = row.position().map_or(line, csv::Position::line);
        let cell = |k: usize, what: &str| row.get(k).filter(|t| !t.is_empty()).ok_or_else(|| format!("The {what} is missing."));
        let read = || -> Result<(Option<Face>, [f64; 3]), String> {
            let face = face.map_or(Ok(None), |k| face_of(row.get(k).unwrap_or_default()))?;
            let v = [
                number(cell(along, "place along")?, unit)?,
                number(cell(out, "distance out")?, unit)?,
                number(cell(height, "height")?, unit)?,
            ];
            Ok((face, fits(v)?))
        };
        match read() {
            Ok((face, v)) => {
                let paved = top.and_then(|k| row.get(k)).is_some_and(|t| t.eq_ignore_ascii_case("paving"));
                let id = id.and_then(|k| row.get(k)).map(str::to_owned);
                g.good(id, face, v, if paved { Top::Paving } else { Top::Soil });
            }
            Err(m) => g.bad(line, m),
        }
    }
    Ok(g.done())
}

/// Reads points from a GeoJSON collection: x to the right of the front left corner, y to the rear, z above the floor.
///
/// # Errors
/// [`ReadingsError`] when it is no collection of features; features that cannot be read are listed in the answer.
pub fn read_readings_geojson(file: impl Read, unit: FileUnit) -> Result<ReadingsFile, ReadingsError> {
    let mut g = Gather::new(vec!["x".into(), "y".into(), "z".into()], Columns::default());
    for feature in FeatureReader::from_reader(file).features() {
        g.out.rows += 1;
        let line = g.out.rows;
        let feature = match feature {
            Ok(f) => f,
            Err(e) if g.out.spots.is_empty() => return Err(ReadingsError::Form(format!("This is no GeoJSON collection of points: {e}."))),
            Err(e) => {
                g.bad(line, format!("This feature cannot be read: {e}."));
                break;
            }
        };
        let property = |key: &str| feature.properties.as_ref().and_then(|p| p.get(key)).cloned();
        let Some(Shape::Point(p)) = feature.geometry.as_ref().map(|g| &g.value) else {
            // Breaklines and ponds of a file that Trowel wrote are no readings.
            if property("kind").is_none() {
                g.bad(line, "This feature is no point.".into());
            }
            continue;
        };
        let z = p.get(2).copied().or_else(|| property("height").and_then(|h| h.as_f64()));
        let (Some(x), Some(y), Some(z)) = (p.first(), p.get(1), z) else {
            g.bad(line, "This point has no height: give it a third coordinate, or a property called height.".into());
            continue;
        };
        match fits([x * unit.metres(), y * unit.metres(), z * unit.metres()]) {
            Ok(v) => {
                let top = if property("top").is_some_and(|t| t == "paving") { Top::Paving } else { Top::Soil };
                g.good(property("id").and_then(|i| i.as_str().map(str::to_owned)), None, v, top);
            }
            Err(m) => g.bad(line, m),
        }
    }
    Ok(g.done())
}

/// Readings as CSV, in metres: coordinates of the plan and height above the floor.
///
/// # Errors
/// When the file cannot be written.
pub fn readings_csv(account: &GroundAccount, to: impl Write) -> Result<(), csv::Error> {
    let mut csv = csv::Writer::from_writer(to);
    csv.write_record(["id", "x", "y", "height", "top", "how"])?;
    for r in &account.readings {
        let (top, how) = (json!(r.top), json!(r.how));
        let m = |v: f64| format!("{v:.4}");
        csv.write_record([
            r.id.as_str(),
            &m(r.at[0]),
            &m(r.at[1]),
            &m(r.z_m),
            top.as_str().unwrap_or_default(),
            how.as_str().unwrap_or_default(),
        ])?;
    }
    csv.flush()?;
    Ok(())
}

/// Readings and ponds as a GeoJSON collection, in metres of the plan.
pub fn ground_geojson(account: &GroundAccount) -> String {
    let feature = |shape: Shape, properties: serde_json::Value| Feature {
        bbox: None,
        geometry: Some(Geometry::new(shape)),
        id: None,
        properties: properties.as_object().cloned(),
        foreign_members: None,
    };
    let mut features: Vec<Feature> = account
        .readings
        .iter()
        .map(|r| feature(Shape::Point(vec![r.at[0], r.at[1], r.z_m]), json!({ "id": r.id, "top": r.top, "how": r.how })))
        .collect();
    features.extend(account.ponds.iter().map(|p| {
        let properties =
            json!({ "kind": "pond", "id": p.id, "place": p.place, "depth_m": p.depth_m, "volume_m3": p.volume_m3, "brim_m": p.brim_m });
        feature(Shape::MultiPoint(vec![vec![p.deepest_at[0], p.deepest_at[1]]]), properties)
    }));
    let foreign = json!({ "trowel": { "frame": "metres, x right of the front left corner, y to the rear, z above the finished floor" } });
    GeoJson::FeatureCollection(FeatureCollection { bbox: None, features, foreign_members: foreign.as_object().cloned() }).to_string()
}
