//! Files from elsewhere: whatever they hold, they are read or refused in words, and never end the program.

use envelope::job::{Brief, Job};
use exchange::{BundleLimits, Columns, FileUnit, open, pack, read_readings_csv, read_readings_geojson, read_roof_geojson, take_in};
use ledger::{Blob, Change, Entity, Kind, Ledger, Request, SystemClock, mark_id};
use proptest::prelude::*;
use std::collections::BTreeSet;
use std::io::Cursor;
use std::sync::Arc;
use uuid::Uuid;

fn request() -> Request {
    Request { id: Uuid::new_v4(), who: "Ida Marrow".into() }
}

fn ledger() -> (tempfile::TempDir, Ledger) {
    let dir = tempfile::tempdir().unwrap();
    let ledger = Ledger::open(dir.path(), Arc::new(SystemClock)).unwrap();
    (dir, ledger)
}

fn entity<T: Entity>(json: serde_json::Value) -> T {
    serde_json::from_value(json).unwrap()
}

/// A job with something of every kind there is.
fn whole() -> (tempfile::TempDir, Ledger, String) {
    use serde_json::json;
    let (dir, ledger) = ledger();
    let job = Uuid::from_u128(7).to_string();
    let id = |n: u128| Uuid::from_u128(n).to_string();
    let png = {
        let mut out = Cursor::new(Vec::new());
        image::RgbImage::from_pixel(8, 6, image::Rgb([90, 120, 60])).write_to(&mut out, image::ImageFormat::Png).unwrap();
        Blob::new("image/png", out.into_inner())
    };
    let r = serde_json::to_value(png.to_ref()).unwrap();
    let place = json!({ "face": "rear", "zone": "edge" });
    let put = |c: Result<Change, ledger::LedgerError>| c.unwrap();
    let changes = [
        put(Change::put(&job, None, &Job::named("Thistlewick"))),
        put(Change::put(&id(1), None, &entity::<envelope::round::Note>(json!({ "place": place, "kind": "remark", "text": "dry" })))),
        put(Change::put(
            &mark_id(&job, "rear.roof".parse().unwrap()),
            None,
            &entity::<envelope::site::Mark>(json!({ "cell": "rear.roof", "state": "seen" })),
        )),
        put(Change::put(&id(2), None, &entity::<envelope::site::Item>(json!({ "face": "rear", "kind": "window", "name": "W1" })))),
        put(Change::put(&Kind::Roof.only_id(&job), None, &envelope::roof::record::Roof::default())),
        put(Change::put(&Kind::Rainwater.only_id(&job), None, &envelope::rain::record::Rainwater::default())),
        put(Change::put(&Kind::Ground.only_id(&job), None, &envelope::ground::record::Ground::default())),
        put(Change::put(
            &Kind::Walls.only_id(&job),
            None,
            &entity::<envelope::wall::record::Walls>(json!({ "details": [{ "id": "L1", "template": "window", "face": "rear" }] })),
        )),
        put(Change::put(
            &Kind::Moisture.only_id(&job),
            None,
            &entity::<envelope::moisture::record::Moisture>(
                json!({ "air": [{ "id": "A1", "t_c": 20.0, "rh_pct": 50.0, "on": "2026-11-18" }] }),
            ),
        )),
        put(Change::put(
            &Kind::Trace.only_id(&job),
            None,
            &entity::<envelope::trace::record::Trace>(
                json!({ "spots": [{ "id": "S1", "name": "damp", "at": { "face": "rear", "along": "1 m", "up": "0.1 m" }, "shows": "skirting" }] }),
            ),
        )),
        put(Change::put(
            &Kind::Storm.only_id(&job),
            None,
            &entity::<envelope::storm::record::StormVisit>(
                json!({ "soft": [{ "id": "M1", "face": "rear", "what": "gutter", "count": 3 }] }),
            ),
        )),
        put(Change::put(
            &Kind::Return.only_id(&job),
            None,
            &entity::<envelope::years::again::ReturnKept>(json!({ "of": id(9), "of_name": "Thistlewick" })),
        )),
        put(Change::put(
            &id(4),
            None,
            &entity::<envelope::years::leaving::SaidThing>(json!({ "at": "2026-11-26T08:00:00Z", "kind": "asked", "text": "Who?" })),
        )),
        put(Change::put(
            &id(5),
            None,
            &entity::<envelope::round::track::TrackStop>(
                json!({ "at": "2026-11-26T08:00:00Z", "place": { "face": "rear", "zone": "roof" } }),
            ),
        )),
        put(Change::put(
            &id(3),
            None,
            &entity::<ledger::Picture>(
                json!({ "note_id": id(1), "name": "a.png", "original": r, "display": r, "thumb": r, "width": 8, "height": 6 }),
            ),
        )),
    ];
    ledger.apply(&request(), &job, &changes, &[png]).unwrap();
    (dir, ledger, job)
}

fn packed(ledger: &Ledger, job: &str) -> Vec<u8> {
    let mut out = Cursor::new(Vec::new());
    assert!(pack(&ledger.job(job).unwrap(), "{}", |h| ledger.blob(h), &mut out).unwrap().is_empty());
    out.into_inner()
}

/// A kind that is added to the ledger and forgotten in the bundle would be lost on the way. Practices and buildings are not of a job;
/// a link opens a page of the server it was made on.
#[test]
fn a_bundle_brings_every_kind_there_is() {
    let (_dir, here, job) = whole();
    let (_other, there) = ledger();
    take_in(&there, &request(), Cursor::new(packed(&here, &job)), BundleLimits::default(), 1_000_000).unwrap();
    let kinds: BTreeSet<Kind> = there.history(&job, 100).unwrap().iter().map(|h| h.kind).collect();
    let of_a_job: BTreeSet<Kind> =
        Kind::ALL.iter().copied().filter(|k| !matches!(k, Kind::Practice | Kind::Building | Kind::Link)).collect();
    assert_eq!(kinds, of_a_job);
    let (a, b) = (here.job(&job).unwrap(), there.job(&job).unwrap());
    assert_eq!((a.notes, a.marks, a.items, a.pictures), (b.notes, b.marks, b.items, b.pictures));
    assert_eq!(a.walls.map(|w| w.body), b.walls.map(|w| w.body));
    assert_eq!(a.moisture.map(|m| m.body), b.moisture.map(|m| m.body));
    assert_eq!(a.trace.map(|t| t.body), b.trace.map(|t| t.body));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    /// One bit or many, anywhere: read as it was or refused, and never half.
    #[test]
    fn a_damaged_bundle_is_refused_whole(at in prop::collection::vec((any::<prop::sample::Index>(), 1_u8..), 1..4), cut in prop::option::of(any::<prop::sample::Index>())) {
        let (_dir, here, job) = whole();
        let mut bytes = packed(&here, &job);
        for (i, flip) in at {
            let i = i.index(bytes.len());
            bytes[i] ^= flip;
        }
        if let Some(cut) = cut {
            bytes.truncate(cut.index(bytes.len()));
        }
        let (dir, there) = ledger();
        let read = take_in(&there, &request(), Cursor::new(bytes), BundleLimits::default(), 1_000_000);
        if let Err(e) = read {
            prop_assert!(e.to_string().len() > 20, "{}", e);
            prop_assert!(there.jobs().unwrap().is_empty());
            let files = std::fs::read_dir(dir.path().join("pictures")).map_or(0, |d| d.flatten().filter(|f| std::fs::read_dir(f.path()).unwrap().count() > 0).count());
            prop_assert_eq!(files, 0, "{}", e);
        }
    }

    #[test]
    fn any_bytes_are_no_bundle(bytes in prop::collection::vec(any::<u8>(), 0..400)) {
        prop_assert!(open(Cursor::new(bytes), BundleLimits::default()).is_err());
    }

    #[test]
    fn any_table_of_readings_is_read_or_refused(text in "([a-z,;\"\t ]{0,12}\n|-?[0-9.eE+]{0,8},[0-9.]{0,4},[0-9]{0,3}\n|id,along,out,height\n){0,12}") {
        let _ = read_readings_csv(text.as_bytes(), FileUnit::default(), &Columns::default());
        let _ = read_readings_geojson(text.as_bytes(), FileUnit::default());
        let _ = read_roof_geojson(&text, &Brief::default());
    }

    #[test]
    fn any_features_are_read_or_refused(x in prop::num::f64::ANY, y in prop::num::f64::ANY, name in ".{0,12}", kind in "(Point|Polygon|LineString|Nothing)") {
        let number = |v: f64| if v.is_finite() { format!("{v}") } else { "null".into() };
        let (x, y) = (number(x), number(y));
        let at = match kind.as_str() {
            "Point" => format!("[{x},{y},{x}]"),
            "Polygon" => format!("[[[{x},{y}],[{y},{x}],[0,0],[{x},{y}]]]"),
            _ => format!("[[{x},{y}],[0,1]]"),
        };
        let name = serde_json::to_string(&name).unwrap();
        let text = format!(r#"{{"type":"FeatureCollection","features":[{{"type":"Feature","properties":{{"id":{name},"name":{name},"height":{x},"pitch":{name}}},"geometry":{{"type":"{kind}","coordinates":{at}}}}}]}}"#);
        let _ = read_readings_geojson(text.as_bytes(), FileUnit::default());
        let _ = read_roof_geojson(&text, &Brief::default());
    }
}
