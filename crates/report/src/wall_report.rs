//! Walls in the report: what must not be covered, the matrix, each failing detail as its drawing, masonry, cracks to scale.

use crate::document::picture;
use crate::sources::PictureSource;
use account::Case;
use drawing::{Look, cracks_svg, floor_svg, laps_svg};
use envelope::site::Face;
use envelope::wall::laps::LapVerdict;
use envelope::wall::matrix::WallFound;
use envelope::wall::record::Walls;
use serde_json::{Value, json};

/// Everything the report says of walls; null while nothing was met.
pub(crate) fn wall_data(case: &Case, pictures: &dyn PictureSource, warnings: &mut Vec<String>) -> Value {
    let Some(walls) = &case.view().walls else { return Value::Null };
    if *walls == Walls::default() {
        return Value::Null;
    }
    let a = case.walls();
    let look = Look::PRINT.in_units(case.practice().units);
    let list: Vec<Value> = a
        .do_not_cover
        .iter()
        .map(|e| json!({ "what": e.what, "text": e.text, "again": e.again.map(|g| g.words()), "open": e.again.is_none() }))
        .collect();
    let details: Vec<Value> = a
        .details
        .iter()
        .filter(|d| d.verdict.is_some_and(|v| v != LapVerdict::Right))
        .map(|d| {
            let mending: Vec<&str> = d.mending.iter().map(|m| m.words.as_str()).collect();
            // Pictures of it that were taken out of the job since are not missed here: nothing refers to them.
            let of = walls.details.iter().find(|k| k.id == d.id).map_or(&[][..], |k| &k.pictures);
            let shown: Vec<Value> = of
                .iter()
                .filter_map(|id| picture(case.view().pictures.iter().find(|p| p.id == *id)?, pictures, warnings))
                .collect();
            json!({ "pictures": shown, "name": d.name, "sentence": d.sentence, "svg": laps_svg(d, look), "mending": mending, "order": d.order, "too_early": d.too_early })
        })
        .collect();
    let right: Vec<&str> = a.details.iter().filter(|d| d.verdict == Some(LapVerdict::Right)).map(|d| d.name.as_str()).collect();
    let answered = !walls.answers.is_empty();
    let masonry: Vec<Value> = walls
        .masonry
        .iter()
        .zip(&a.masonry)
        .map(|(m, w)| {
            let name = if m.name.is_empty() { &m.id } else { &m.name };
            let said: Vec<String> = [w.weeps.clone(), w.joints.clone()].into_iter().chain(w.more.clone()).collect();
            json!({ "name": format!("{}, {name}", m.face.name()), "said": said })
        })
        .collect();
    let elevations: Vec<Value> = Face::ALL
        .into_iter()
        .filter_map(|f| {
            Some(json!({ "svg": cracks_svg(f, walls, a, case.roof(), look)?, "alt": format!("{} with its cracks, to scale", f.name()) }))
        })
        .collect();
    json!({
        "sentence": answered.then(|| a.matrix.sentence.clone()),
        "openings": if answered { table(walls, &a.matrix.opening_checks, &a.matrix.openings) } else { Value::Null },
        "faces": if answered { table(walls, &a.matrix.face_checks, &a.matrix.faces) } else { Value::Null },
        "list": list, "details": details, "right": right,
        "rows": walls.fasteners.iter().zip(&a.rows).map(|(f, r)| format!("{}, {}: {}", f.face.name(), if f.row.is_empty() { &f.id } else { &f.row }, r.words)).collect::<Vec<_>>(),
        "masonry": masonry, "elevations": elevations,
        "cracks": a.cracks.iter().map(|c| format!("{}: {}", c.id, c.sentence)).collect::<Vec<_>>(),
        "reader": a.reader.as_ref().map(|r| json!({ "sentence": r.sentence, "next": r.next })),
        "floor": a.floor.as_ref().map(|f| {
            let long = |face| case.wall_input(Walls::default()).face_m.get(&face).copied();
            json!({ "sentence": f.sentence, "svg": floor_svg(Some(f), long(Face::Front), long(Face::Left), look) })
        }),
        "opens": a.details.iter().any(|d| d.mending.iter().any(|m| m.opens_wall)),
    })
}

/// A matrix as it is printed: its heads, and a row for each place with a sign for each answer.
fn table(walls: &Walls, checks: &[envelope::wall::matrix::CheckAsked], rows: &[envelope::wall::matrix::MatrixRow]) -> Value {
    if rows.iter().flat_map(|r| &r.keys).all(|k| !walls.answers.contains_key(k)) {
        return Value::Null;
    }
    let said = |key: &String| match walls.answers.get(key).map(|a| a.found) {
        Some(WallFound::Right) => "right",
        Some(WallFound::Wrong) => "WRONG",
        Some(WallFound::NotSeen) => "not seen",
        Some(WallFound::NotHere) => "–",
        None => "open",
    };
    let body: Vec<Vec<&str>> = rows.iter().map(|r| [r.words.as_str()].into_iter().chain(r.keys.iter().map(said)).collect()).collect();
    json!({ "heads": checks.iter().map(|c| c.words.as_str()).collect::<Vec<_>>(), "rows": body })
}
