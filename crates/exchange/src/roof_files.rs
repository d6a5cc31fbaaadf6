//! The roof as open files: GeoJSON out and in, DXF out.
//!
//! Both are in the plan's own frame: metres, x east and y north, the building's front left corner at the origin. GeoJSON is meant for degrees;
//! a member `trowel` says that these are metres, as the format allows by arrangement.

use envelope::job::Brief;
use envelope::roof::account::Account;
use envelope::roof::record::{MassRecord, Roof, RoofForm};
use geojson::{Feature, FeatureCollection, GeoJson, Geometry, JsonObject, Value as Shape};
use serde_json::{Value, json};

fn ring(points: &[[f64; 2]]) -> Vec<Vec<f64>> {
    points.iter().chain(points.first()).map(|p| vec![p[0], p[1]]).collect()
}

fn object(v: Value) -> JsonObject {
    v.as_object().cloned().unwrap_or_default()
}

fn feature(shape: Shape, properties: Value) -> Feature {
    Feature { bbox: None, geometry: Some(Geometry::new(shape)), id: None, properties: Some(object(properties)), foreign_members: None }
}

const FRAME: &str = "metres, x east, y north";

/// Masses, facets, edges and details as a GeoJSON collection.
pub fn roof_geojson(roof: &Roof, account: &Account) -> String {
    let mut features = Vec::new();
    for (m, a) in roof.masses.iter().zip(&account.masses) {
        let mut properties = json!(m);
        properties["kind"] = json!("mass");
        features.push(feature(Shape::Polygon(vec![ring(&a.walls)]), properties));
    }
    if let Some(shape) = &account.shape {
        for f in &shape.facets {
            let slope = account.slopes.iter().find(|s| s.facet == f.id);
            let parts = f.parts.iter().map(|p| std::iter::once(&p.outer).chain(&p.holes).map(|r| ring(r)).collect()).collect();
            features.push(feature(
                Shape::MultiPolygon(parts),
                json!({ "kind": "facet", "id": f.id, "label": slope.map(|s| &s.label), "covering": slope.and_then(|s| s.covering.as_ref()),
                    "plan_area_m2": f.plan_area_m2, "true_area_m2": f.true_area_m2, "pitch": f.pitch, "downslope_azimuth_deg": f.downslope_azimuth_deg }),
            ));
        }
        for e in &shape.edges {
            features.push(feature(
                Shape::LineString(vec![vec![e.p0[0], e.p0[1], e.z0_m], vec![e.p1[0], e.p1[1], e.z1_m]]),
                json!({ "kind": "edge", "id": e.id, "edge": e.kind, "facet": e.facet, "other": e.other, "true_m": e.true_m }),
            ));
        }
    }
    for d in &account.details {
        features.push(feature(
            Shape::Point(vec![d.at[0], d.at[1]]),
            json!({ "kind": "detail", "key": d.key, "words": d.words, "state": d.state, "size": d.size }),
        ));
    }
    let foreign = object(json!({ "trowel": { "frame": FRAME } }));
    let all = FeatureCollection { bbox: None, features, foreign_members: Some(foreign) };
    GeoJson::FeatureCollection(all).to_string()
}

/// Why a GeoJSON file gives no roof.
#[derive(Debug, thiserror::Error)]
pub enum GeoJsonError {
    /// Not GeoJSON.
    #[error("This file is not GeoJSON: {0}")]
    NotGeoJson(String),
    /// Nothing in it is a building.
    #[error("There is no outline in it. A polygon for each part of the building is needed.")]
    Nothing,
    /// A shape that is no rectangle.
    #[error("Outline {0} is not a rectangle. Divide it into rectangles, one for each part of the building.")]
    NotARectangle(usize),
    /// A mass that cannot be kept.
    #[error("Outline {0}: {1}")]
    Mass(usize, String),
}

/// Reads masses: Trowel's own come back as they were; any other rectangle becomes a mass of its size, its pitch still to be
/// measured. Degrees are turned into metres.
///
/// # Errors
/// [`GeoJsonError`] says what is wrong with which outline. Nothing is changed.
pub fn read_roof_geojson(text: &str, brief: &Brief) -> Result<Roof, GeoJsonError> {
    let read: GeoJson = text.parse().map_err(|e: geojson::Error| GeoJsonError::NotGeoJson(e.to_string().chars().take(200).collect()))?;
    let collection = FeatureCollection::try_from(read).map_err(|e| GeoJsonError::NotGeoJson(e.to_string().chars().take(200).collect()))?;
    let metres = collection.foreign_members.as_ref().is_some_and(|m| m.get("trowel").is_some());
    let mut roof = Roof::default();
    for (k, f) in collection.features.iter().enumerate() {
        let kind = f.property("kind").and_then(Value::as_str);
        let n = k + 1;
        if metres && kind == Some("mass") {
            let mut properties = f.properties.clone().unwrap_or_default();
            properties.remove("kind");
            let mass: MassRecord = serde_json::from_value(Value::Object(properties)).map_err(|e| GeoJsonError::Mass(n, e.to_string()))?;
            roof.masses.push(mass);
        } else if !metres && let Some(Shape::Polygon(rings)) = f.geometry.as_ref().map(|g| &g.value) {
            roof.masses.push(rectangle(rings, n, roof.masses.len(), brief)?);
        }
    }
    if roof.masses.is_empty() {
        return Err(GeoJsonError::Nothing);
    }
    roof.check().map_err(|e| GeoJsonError::Mass(1, e.message))?;
    Ok(roof)
}

/// A rectangle in degrees as a mass that stands by itself.
fn rectangle(rings: &[Vec<Vec<f64>>], n: usize, masses: usize, brief: &Brief) -> Result<MassRecord, GeoJsonError> {
    /// Metres in a degree of latitude, near enough for a building.
    const DEGREE_M: f64 = 111_320.0;
    let points: Vec<&Vec<f64>> = rings.first().map(|r| r.iter().collect()).unwrap_or_default();
    if points.len() != 5 || points.iter().any(|p| p.len() < 2) {
        return Err(GeoJsonError::NotARectangle(n));
    }
    let shrink = points[0][1].to_radians().cos();
    let at = |p: &[f64]| [(p[0] - points[0][0]) * DEGREE_M * shrink, (p[1] - points[0][1]) * DEGREE_M];
    let p: Vec<[f64; 2]> = points[..4].iter().map(|p| at(p)).collect();
    let side = |a: [f64; 2], b: [f64; 2]| [b[0] - a[0], b[1] - a[1]];
    let (u, v) = (side(p[0], p[1]), side(p[1], p[2]));
    let (lu, lv) = (u[0].hypot(u[1]), v[0].hypot(v[1]));
    let cosine = ((u[0] * v[0] + u[1] * v[1]) / (lu * lv)).abs();
    // The fourth corner lies across from the second, and the ring ends where it began; out by more than a hand over the wall it is
    // another shape.
    let last = [p[0][0] + v[0], p[0][1] + v[1]];
    let off = |a: [f64; 2], b: [f64; 2]| side(a, b)[0].hypot(side(a, b)[1]) > 0.02 * lu;
    if cosine.is_nan() || cosine > 0.02 || off(p[3], last) || off(at(points[4]), p[0]) {
        return Err(GeoJsonError::NotARectangle(n));
    }
    // Seen from the front, the wall that lies more nearly along it is the length.
    let front = brief.front_faces.map_or(180.0, |b| b.degrees());
    let along = [front.to_radians().cos(), -front.to_radians().sin()];
    let u_is_length = ((u[0] * along[0] + u[1] * along[1]) / lu).abs() > 0.707;
    let (length, depth) = if u_is_length { (lu, lv) } else { (lv, lu) };
    let letter = char::from(b'A' + (masses % 26) as u8).to_string();
    Ok(MassRecord {
        id: if masses < 26 { letter.clone() } else { format!("{letter}{masses}") },
        name: format!("part {n}"),
        length: format!("{length:.2} m"),
        depth: format!("{depth:.2} m"),
        form: RoofForm::Flat,
        ridge: Default::default(),
        break_at: String::new(),
        upper_pitch: String::new(),
        ends_from: String::new(),
        faces: Default::default(),
        falls_to: None,
        pitch: Default::default(),
        eave: "2.7 m".into(),
        overhang: "0 m".into(),
        covering: None,
        against: None,
        turned_deg: 0.0,
    })
}

/// Facets, edges and walls as a DXF drawing in metres, one layer for each kind.
///
/// # Errors
/// When the drawing cannot be written.
pub fn roof_dxf(account: &Account) -> Result<Vec<u8>, dxf::DxfError> {
    use dxf::entities::{Entity, EntityType, Line, LwPolyline, Text};
    use dxf::{Drawing, LwPolylineVertex, Point, enums};
    let mut drawing = Drawing::new();
    drawing.header.version = enums::AcadVersion::R2000;
    drawing.header.default_drawing_units = enums::Units::Meters;
    let mut add = |layer: &str, what: EntityType| {
        let mut entity = Entity::new(what);
        layer.clone_into(&mut entity.common.layer);
        drawing.add_entity(entity);
    };
    let closed = |points: &[[f64; 2]]| {
        let mut p = LwPolyline::default();
        p.vertices = points.iter().map(|p| LwPolylineVertex { x: p[0], y: p[1], ..Default::default() }).collect();
        p.set_is_closed(true);
        EntityType::LwPolyline(p)
    };
    for m in &account.masses {
        add("WALLS", closed(&m.walls));
    }
    if let Some(shape) = &account.shape {
        for f in &shape.facets {
            for p in &f.parts {
                std::iter::once(&p.outer).chain(&p.holes).for_each(|r| add("FACETS", closed(r)));
            }
            let text =
                Text { location: Point::new(f.middle[0], f.middle[1], 0.0), text_height: 0.3, value: f.id.clone(), ..Default::default() };
            add("NAMES", EntityType::Text(text));
        }
        for e in &shape.edges {
            let layer = serde_json::to_value(e.kind).ok().and_then(|v| v.as_str().map(str::to_uppercase)).unwrap_or_default();
            let line = Line::new(Point::new(e.p0[0], e.p0[1], e.z0_m), Point::new(e.p1[0], e.p1[1], e.z1_m));
            add(&layer, EntityType::Line(line));
        }
    }
    let mut out = Vec::new();
    drawing.save(&mut out)?;
    Ok(out)
}
