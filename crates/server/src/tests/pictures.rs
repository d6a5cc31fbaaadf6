//! Pictures: how they come in, what is taken out of them, how they are kept and marked.

use super::*;
use envelope::round::PictureMark;

#[actix_web::test]
async fn a_phone_picture_is_turned_read_and_stripped() {
    let b = bench().await;
    let p = b.picture(phone_picture()).await.json()["picture"]["body"].clone();
    assert_eq!((&p["width"], &p["height"]), (&json!(40), &json!(60)), "a picture marked as turned is put upright");
    assert_eq!((&p["taken_at"], &p["heading"], &p["proposed_face"]), (&json!("2026-11-18T10:31:00"), &json!(20.0), &json!("front")));
    assert_eq!(p["has_location"], true);
    let id = b.view().await["pictures"][0]["id"].as_str().unwrap().to_owned();
    for copy in ["display", "thumb"] {
        assert!(exif_of(&b.get(&format!("/api/jobs/{JOB}/pictures/{id}/{copy}")).await.body).is_none(), "{copy} carries metadata");
    }
    let original = b.get(&format!("/api/jobs/{JOB}/pictures/{id}/original")).await.body;
    let exif = exif_of(&original).unwrap();
    assert!(exif.get_field(Tag::GPSLatitude, In::PRIMARY).is_none());
    assert_eq!(exif.get_field(Tag::Orientation, In::PRIMARY).and_then(|f| f.value.get_uint(0)), Some(6));
}

#[actix_web::test]
async fn location_leaves_with_a_bundle_only_when_the_brief_keeps_it() {
    for keep in [false, true] {
        let b = bench().await;
        let body = json!({ "base": 1, "body": { "name": "Heron", "brief": { "keep_location": keep } } });
        assert_eq!(b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &body).await.status, 200);
        assert_eq!(b.picture(phone_picture()).await.status, 200);
        let zip = b.get(&format!("/api/jobs/{JOB}/bundle.zip")).await.body;
        let mut archive = zip::ZipArchive::new(Cursor::new(&zip)).unwrap();
        let mut located = 0;
        for i in 0..archive.len() {
            let mut bytes = Vec::new();
            std::io::copy(&mut archive.by_index(i).unwrap(), &mut bytes).unwrap();
            located += usize::from(exif_of(&bytes).is_some_and(|e| e.get_field(Tag::GPSLatitude, In::PRIMARY).is_some()));
        }
        assert_eq!(located, usize::from(keep));
        // and it reads back in
        let other = Bench::new();
        assert_eq!(other.bytes("/api/bundles", zip).await.status, 200);
    }
}

#[actix_web::test]
async fn hostile_pictures_are_refused_and_nothing_is_kept() {
    let b = bench().await;
    let mut cut = jpeg(400, 300);
    cut.truncate(cut.len() / 3);
    // A PNG that claims 60000 x 60000 pixels in a few bytes.
    let mut bomb = b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR".to_vec();
    bomb.extend([0, 0, 0xEA, 0x60, 0, 0, 0xEA, 0x60, 8, 2, 0, 0, 0]);
    bomb.extend(crc(&bomb[12..]).to_be_bytes());
    bomb.extend(b"\0\0\0\x01IDAT\0");
    bomb.extend(crc(b"IDAT\0").to_be_bytes());
    bomb.extend(b"\0\0\0\0IEND\xaeB`\x82");
    for (name, bytes, expected) in [
        ("text", b"hello".to_vec(), (422, "picture")),
        ("nothing", vec![], (422, "picture")),
        ("a page", b"<svg xmlns='http://www.w3.org/2000/svg'/>".to_vec(), (422, "picture")),
        ("cut short", cut, (422, "picture")),
        ("a bomb", bomb, (413, "too-large")),
        ("noise after a true beginning", [&b"\xff\xd8\xff\xe0"[..], &[7; 300]].concat(), (422, "picture")),
    ] {
        let (status, code, _) = b.picture(bytes).await.fault();
        assert_eq!((status, code.as_str()), expected, "{name}");
    }
    let small = Bench::with(Limits { picture_bytes: 1000, ..Limits::default() }, vec![]);
    small.start_job().await;
    assert_eq!(small.picture(jpeg(200, 200)).await.fault().1, "too-large");
    assert!(b.view().await["pictures"].as_array().unwrap().is_empty());
}

#[actix_web::test]
async fn pictures_are_cached_by_content() {
    let b = bench().await;
    b.picture(jpeg(80, 60)).await;
    let id = b.view().await["pictures"][0]["id"].as_str().unwrap().to_owned();
    let path = format!("/api/jobs/{JOB}/pictures/{id}/thumb");
    let first = b.get(&path).await;
    let tag = first.headers.get("etag").unwrap().to_str().unwrap().to_owned();
    let again = b.send(Method::GET, &path, &[("if-none-match", &tag)], vec![]).await;
    assert_eq!((first.status, again.status, again.body.len()), (200, 304, 0));
}

#[actix_web::test]
async fn a_picture_of_a_detail_is_no_loose_one() {
    let b = bench().await;
    let id = b.picture(phone_picture()).await.json()["picture"]["id"].as_str().unwrap().to_owned();
    let loose = || async { b.app.case_in_background(JOB.into()).await.unwrap().view().loose_pictures().count() };
    assert_eq!(loose().await, 1);
    let detail = json!({ "id": "L1", "template": "window", "face": "rear", "at": "W2", "faults": ["head-reversed"], "pictures": [id] });
    let put = json!({ "base": null, "body": { "details": [detail] } });
    assert_eq!(b.change(Method::PUT, &format!("/api/jobs/{JOB}/walls"), &put).await.status, 200);
    let pdf = b.get(&format!("/api/jobs/{JOB}/report.pdf")).await;
    assert_eq!(pdf.status, 200);
    assert_eq!(loose().await, 0);
}

#[actix_web::test]
async fn a_picture_is_kept_once_marked_and_sorted() {
    let b = bench().await;
    let first = b.picture(phone_picture()).await.json();
    assert_eq!((first["duplicate"].as_bool(), first["proposal"]["face"].as_str()), (Some(false), Some("front")));
    let second = b.picture(phone_picture()).await.json();
    assert_eq!((second["duplicate"].as_bool(), &second["picture"]["id"]), (Some(true), &first["picture"]["id"]));
    assert_eq!(b.view().await["pictures"].as_array().map(Vec::len), Some(1));
    let id = first["picture"]["id"].as_str().unwrap().to_owned();
    let path = format!("/api/jobs/{JOB}/pictures/{id}");
    let keep = async |marks: Value| {
        b.change(Method::PUT, &path, &json!({ "base": 1, "body": { "caption": "c", "marks": marks, "range": "close" } })).await
    };
    let ring = json!({ "shape": "ring", "from": [0.2, 0.2], "to": [0.6, 0.6] });
    assert_eq!(keep(json!([{ "shape": "ring", "from": [0.2, 0.2], "to": [1.6, 0.6] }])).await.fault().2, "marks");
    assert_eq!(keep(json!([{ "shape": "line", "from": [0.2, 0.2], "to": [0.6, 0.6], "text": "5 %" }])).await.fault().2, "marks");
    assert_eq!(keep(json!([ring])).await.status, 200);
    let kept = b.view().await["pictures"][0]["body"].clone();
    assert_eq!((kept["marks"][0]["shape"].as_str(), kept["range"].as_str()), (Some("ring"), Some("close")));
    // The original stays as it came.
    assert_eq!(kept["original"], first["picture"]["body"]["original"]);
    assert_eq!(b.get(&format!("/api/jobs/{JOB}/report.pdf")).await.status, 200);
}

/// The page lays over a picture what is printed over it, also while a mark is not whole yet; what a person typed stays text.
#[actix_web::test]
async fn marks_are_drawn_as_they_are_printed() {
    let b = bench().await;
    let ask = async |marks: Value| b.change(Method::POST, "/api/marks", &json!({ "marks": marks, "width": 640, "height": 480 })).await;
    let drawn = ask(json!([
        { "shape": "ring", "from": [0.2, 0.2], "to": [0.6, 0.6] },
        { "shape": "line", "from": [0.2, 0.2], "to": [0.6, 0.6], "text": "" },
        { "shape": "text", "from": [0.5, 0.5], "to": [0.5, 0.5], "text": "</g><script>" },
    ]))
    .await;
    assert_eq!(drawn.status, 200);
    let drawn: Vec<String> = serde_json::from_value(drawn.json()).unwrap();
    assert_eq!(drawn.len(), 3);
    assert!(drawn[0].contains("<path") && drawn[1].contains("<path"));
    assert!(drawn[2].contains("&lt;/g&gt;&lt;script&gt;") && !drawn[2].contains("<script"), "{}", drawn[2]);
    let mark: PictureMark = serde_json::from_value(json!({ "shape": "ring", "from": [0.2, 0.2], "to": [0.6, 0.6], "text": "" })).unwrap();
    assert!(drawing::marks_svg(std::slice::from_ref(&mark), 640, 480).contains(&drawn[0]), "one drawing for screen and print");
    // Nothing was asked for, too much, and something that is no mark.
    assert_eq!(ask(json!([])).await.json(), json!([]));
    let many = vec![json!({ "shape": "ring", "from": [0.2, 0.2], "to": [0.6, 0.6] }); envelope::round::MOST_MARKS + 1];
    assert_eq!(ask(json!(many)).await.fault().2, "marks");
    assert_eq!(ask(json!([{ "shape": "star", "from": [0, 0], "to": [1, 1] }])).await.status, 422);
}
