//! What the program was attacked with, request by request. Each of these failed once.

use super::*;
use crate::Patience;
use std::io::Read;
use std::net::TcpStream;
use std::time::Duration;

fn sized_png(width: u32, height: u32) -> Vec<u8> {
    // Only a head: what is too large is refused before anything behind it is looked at.
    let mut ihdr = b"IHDR".to_vec();
    ihdr.extend(width.to_be_bytes());
    ihdr.extend(height.to_be_bytes());
    ihdr.extend([8, 2, 0, 0, 0]);
    let crc = ihdr.iter().fold(0xffff_ffff_u32, |mut c, b| {
        c ^= u32::from(*b);
        for _ in 0..8 {
            c = if c & 1 == 1 { 0xedb8_8320 ^ (c >> 1) } else { c >> 1 };
        }
        c
    });
    let mut png = b"\x89PNG\r\n\x1a\n".to_vec();
    png.extend(13_u32.to_be_bytes());
    png.extend(&ihdr);
    png.extend((!crc).to_be_bytes());
    png.extend([0, 0, 0, 0]);
    png.extend(b"IDAT");
    png.extend([0x35, 0xaf, 0x06, 0x1e]);
    png
}

/// The files of a zip.
fn unzipped(bytes: Vec<u8>) -> Vec<(String, Vec<u8>)> {
    let mut zip = zip::ZipArchive::new(Cursor::new(bytes)).unwrap();
    let mut files = Vec::new();
    for i in 0..zip.len() {
        let mut f = zip.by_index(i).unwrap();
        let mut bytes = Vec::new();
        f.read_to_end(&mut bytes).unwrap();
        files.push((f.name().to_owned(), bytes));
    }
    files
}

/// The job as a bundle, changed before it is packed again.
async fn bundle(b: &Bench, change: impl FnOnce(&mut Value)) -> Vec<u8> {
    let mut files = unzipped(b.get(&format!("/api/jobs/{JOB}/bundle.zip")).await.body);
    let json = files.iter_mut().find(|f| f.0 == "bundle.json").unwrap();
    let mut value: Value = serde_json::from_slice(&json.1).unwrap();
    change(&mut value);
    json.1 = value.to_string().into_bytes();
    zipped(&files)
}

fn zipped(files: &[(String, Vec<u8>)]) -> Vec<u8> {
    let mut out = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for (name, bytes) in files {
        out.start_file(name, SimpleFileOptions::default()).unwrap();
        out.write_all(bytes).unwrap();
    }
    out.finish().unwrap().into_inner()
}

impl Bench {
    fn files(&self) -> usize {
        let walk =
            |p: &std::path::Path| std::fs::read_dir(p).map(|d| d.flatten().map(|e| e.path()).collect::<Vec<_>>()).unwrap_or_default();
        walk(&self.folder.path().join("pictures")).iter().map(|d| walk(d).len()).sum()
    }
    async fn under(&self, key: &str, method: Method, path: &str, body: &Value) -> Answer {
        self.send(method, path, &[("idempotency-key", key), ("content-type", "application/json")], body.to_string().into_bytes()).await
    }
}

#[actix_web::test]
async fn a_report_follows_the_practice_and_stays_the_same_while_nothing_changes() {
    let b = bench().await;
    b.line("gutter clean").await;
    b.line("gutter end no downspout").await;
    let pdf = || b.get("/api/jobs/0190aaaa-0000-7000-8000-00000000000a/report.pdf");
    let first = pdf().await.body;
    assert_eq!(pdf().await.body, first);
    // The job follows a practice by name; keeping one of that name changes what is printed, and no note.
    let mut job = b.view().await["job"].clone();
    job["body"]["brief"]["practice"] = json!("Plumb & Daylight");
    b.change(Method::PUT, &format!("/api/jobs/{JOB}"), &json!({ "base": job["rev"], "body": job["body"] })).await;
    let before = pdf().await.body;
    let practice = json!({ "name": "Plumb & Daylight", "choice": { "report-scope": { "school": "material", "reason": "" } } });
    let kept =
        b.change(Method::PUT, "/api/practices/0190aaaa-0000-7000-8000-0000000000aa", &json!({ "base": null, "body": practice })).await;
    assert_eq!(kept.status, 200, "{}", kept.json());
    assert_ne!(pdf().await.body, before, "the report still follows the practice of before");
}

#[actix_web::test]
async fn a_measure_longer_than_any_is_refused_in_words() {
    let b = bench().await;
    let long = "1 ft ".repeat(90_000);
    let (status, code, _) = b.change(Method::POST, "/api/calc/measure", &json!({ "text": long })).await.fault();
    assert_eq!((status, code.as_str()), (422, "invalid"));
    assert_eq!(b.change(Method::POST, "/api/calc/measure", &json!({ "text": "6 1/2 in" })).await.status, 200);
}

#[actix_web::test]
async fn nothing_is_written_into_a_job_that_is_gone_or_never_was() {
    let b = bench().await;
    b.line("gutter sagging").await;
    let note = b.view().await["notes"][0].clone();
    b.send(Method::DELETE, &format!("/api/jobs/{JOB}?base=1"), &[("idempotency-key", &Uuid::new_v4().to_string())], vec![]).await;
    let never = "0190aaaa-0000-7000-8000-0000000000ff";
    for job in [JOB, never] {
        let put = json!({ "base": null, "body": note["body"] });
        for (method, path, body) in [
            (Method::PUT, format!("/api/jobs/{job}/notes/{}", Uuid::new_v4()), put.clone()),
            (Method::POST, format!("/api/jobs/{job}/lines"), json!({ "line": "torn boot", "place": { "face": "rear", "zone": "roof" } })),
            (Method::POST, format!("/api/jobs/{job}/items"), json!({ "face": "rear", "kind": "window", "count": 2 })),
            (Method::PUT, format!("/api/jobs/{job}/marks/rear.roof"), json!({ "base": null, "body": { "state": "seen" } })),
            (Method::PUT, format!("/api/jobs/{job}/ground"), json!({ "base": null, "body": {} })),
        ] {
            assert_eq!(b.change(method, &path, &body).await.fault().0, 404, "{path}");
        }
        assert_eq!(b.bytes(&format!("/api/jobs/{job}/pictures?name=a.jpg"), jpeg(40, 30)).await.fault().0, 404);
        assert_eq!(b.get(&format!("/api/jobs/{job}")).await.status, 404);
    }
    assert_eq!(b.files(), 0, "a refused picture leaves no file");
    // Undo brings the job back as it was, and takes nothing else back first.
    b.change(Method::POST, &format!("/api/jobs/{JOB}/undo"), &json!({})).await;
    assert_eq!(b.view().await["notes"].as_array().unwrap().len(), 1);
}

#[actix_web::test]
async fn the_same_key_and_body_give_the_same_answer_whatever_has_happened_since() {
    let b = bench().await;
    b.line("gutter sagging").await;
    let (lines, items) = (format!("/api/jobs/{JOB}/lines"), format!("/api/jobs/{JOB}/items"));
    let place = json!({ "face": "rear", "zone": "edge" });
    for (path, body) in [
        (&items, json!({ "face": "rear", "kind": "window", "count": 2 })),
        (&lines, json!({ "line": "no, left side", "place": place })),
        (&lines, json!({ "line": "scratch that", "place": place })),
        (&lines, json!({ "line": "now the front", "place": place })),
        (&lines, json!({ "line": "torn boot and moss", "place": place })),
    ] {
        let key = Uuid::new_v4().to_string();
        let first = b.under(&key, Method::POST, path, &body).await;
        assert_eq!(first.status, 200, "{}", first.json());
        // Others go on meanwhile.
        b.line("fascia rot").await;
        b.change(Method::POST, &items, &json!({ "face": "rear", "kind": "window", "count": 1 })).await;
        let before = b.view().await;
        let again = b.under(&key, Method::POST, path, &body).await;
        assert_eq!((again.status, again.json()), (200, first.json()), "{path} {body}");
        assert_eq!(b.view().await["version"], before["version"], "a retry changes nothing");
        // The same key for something else is refused.
        let mut other = body.clone();
        other["at"] = json!("2026-11-23T09:00:00Z");
        other["count"] = json!(3);
        assert_eq!(b.under(&key, Method::POST, path, &other).await.fault().1, "conflict");
    }
    // Undo as well: twice the same key takes back one change.
    let key = Uuid::new_v4().to_string();
    let undo = format!("/api/jobs/{JOB}/undo");
    let first = b.under(&key, Method::POST, &undo, &json!({})).await.json();
    b.line("moss").await;
    assert_eq!(b.under(&key, Method::POST, &undo, &json!({})).await.json(), first);
    // And bundles.
    let zip = b.get(&format!("/api/jobs/{JOB}/bundle.zip")).await.body;
    let other = Bench::new();
    let send = async || other.send(Method::POST, "/api/bundles", &[("idempotency-key", key.as_str())], zip.clone()).await;
    let first = send().await;
    assert_eq!((first.status, send().await.json()), (200, first.json()));
    assert_eq!(other.bytes("/api/bundles", zip.clone()).await.fault().1, "conflict");
}

#[actix_web::test]
async fn ids_in_another_spelling_are_found_again() {
    let b = bench().await;
    b.line("gutter sagging").await;
    b.picture(jpeg(40, 30)).await;
    let odd = bundle(&b, |v| {
        let upper = |id: &mut Value| *id = json!(id.as_str().unwrap().to_uppercase());
        upper(&mut v["job"]["id"]);
        upper(&mut v["notes"][0]["id"]);
        v["pictures"][0]["body"]["note_id"] = json!(format!("urn:uuid:{}", v["notes"][0]["id"].as_str().unwrap().to_lowercase()));
    })
    .await;
    let other = Bench::new();
    assert_eq!(other.bytes("/api/bundles", odd).await.status, 200);
    let view = other.view().await;
    assert_eq!(view["notes"][0]["id"], b.view().await["notes"][0]["id"]);
    assert_eq!(view["pictures"][0]["body"]["note_id"], view["notes"][0]["id"]);
}

#[actix_web::test]
async fn a_bundle_brings_in_nothing_that_the_page_would_refuse_and_leaves_nothing_behind() {
    let b = bench().await;
    b.line("gutter sagging").await;
    b.picture(jpeg(40, 30)).await;
    let long = "x".repeat(600_000);
    let edge = 4_000_000_000_u32;
    for (what, odd) in [
        ("a long caption", bundle(&b, |v| v["pictures"][0]["body"]["caption"] = json!(long)).await),
        ("a width no picture has", bundle(&b, |v| v["pictures"][0]["body"]["width"] = json!(edge)).await),
        ("a note twice", bundle(&b, |v| { let n = v["notes"][0].clone(); v["notes"].as_array_mut().unwrap().push(n); }).await),
        ("a mark twice", bundle(&b, |v| v["marks"] = json!([
            { "id": "a", "body": { "cell": "rear.roof", "state": "seen" } }, { "id": "b", "body": { "cell": "rear.roof", "state": "seen" } }])).await),
        ("a reason that is a book", bundle(&b, |v| v["marks"] = json!([
            { "id": "a", "body": { "cell": "rear.roof", "state": "limited", "reason": "too-steep", "detail": long } }])).await),
        ("a note of another form", bundle(&b, |v| v["notes"][0]["body"]["kind"] = json!("magic")).await),
    ] {
        let other = Bench::new();
        let (status, ..) = other.bytes("/api/bundles", odd).await.fault();
        assert_eq!(status, 422, "{what}");
        assert_eq!((other.files(), other.get("/api/jobs").await.json()["all"].as_u64()), (0, Some(0)), "{what} left something behind");
    }
}

#[actix_web::test]
async fn a_bomb_is_refused_before_it_is_unpacked() {
    let b = bench().await;
    // What unpacks to more than is allowed in all, and one named file that is larger than a picture may be.
    let zeros = vec![0; 5 << 20];
    let many: Vec<(String, Vec<u8>)> = (0..8).map(|i| (format!("pictures/{i}"), zeros.clone())).collect();
    let limits = Limits { bundle: exchange::BundleLimits { all_bytes: 32 << 20, ..Default::default() }, ..Limits::default() };
    let small = Bench::with(limits, vec![]);
    assert_eq!(small.bytes("/api/bundles", zipped(&many)).await.fault().0, 413);
    b.picture(jpeg(40, 30)).await;
    let hash = b.view().await["pictures"][0]["body"]["original"]["hash"].as_str().unwrap().to_owned();
    let mut files = unzipped(bundle(&b, |_| {}).await);
    files.iter_mut().filter(|f| f.0.ends_with(&hash)).for_each(|f| f.1.clone_from(&zeros));
    let limits = Limits { bundle: exchange::BundleLimits { file_bytes: 1 << 20, ..Default::default() }, ..Limits::default() };
    let small = Bench::with(limits, vec![]);
    assert_eq!(small.bytes("/api/bundles", zipped(&files)).await.fault().0, 413);
    assert_eq!(small.files(), 0);
}

#[actix_web::test]
async fn a_picture_that_would_fill_the_memory_is_refused_by_its_head() {
    let b = bench().await;
    for (width, height) in [(100_000_000, 1), (1, 31_000), (20_000, 20_000)] {
        assert_eq!(b.picture(sized_png(width, height)).await.fault().0, 413, "{width} x {height}");
    }
    assert_eq!(b.files(), 0);
}

#[actix_web::test]
async fn a_damaged_picture_stays_out_of_the_bundle_and_is_healed_by_the_good_file() {
    let b = bench().await;
    let good = jpeg(40, 30);
    b.picture(good.clone()).await;
    b.picture(jpeg(64, 48)).await;
    let hash = b.view().await["pictures"][0]["body"]["original"]["hash"].as_str().unwrap().to_owned();
    let file = b.folder.path().join("pictures").join(&hash[..2]).join(&hash);
    std::fs::write(&file, b"broken").unwrap();
    let left = bundle(&b, |v| {
        assert_eq!(v["pictures"].as_array().unwrap().len(), 1);
        assert_eq!(v["left_out"], json!(["a.jpg"]));
    })
    .await;
    assert_eq!(Bench::new().bytes("/api/bundles", left).await.status, 200, "what is whole can be read in");
    assert_eq!(b.picture(good).await.json()["duplicate"], json!(true));
    bundle(&b, |v| assert_eq!(v["pictures"].as_array().unwrap().len(), 2)).await;
}

#[actix_web::test]
async fn reading_needs_no_writing() {
    let b = bench().await;
    b.line("gutter sagging").await;
    b.app.ledger.limit_pages_for_test(0).unwrap();
    let long = "gutter ".repeat(400);
    let refused = (0..400).find_map(|_| {
        let place = envelope::site::Place::outside(envelope::site::Face::Rear, envelope::site::Zone::Edge);
        let note = envelope::round::read(&long, &envelope::round::Context::at(place, None)).notes.remove(0).into_note(String::new());
        let change = [ledger::Change::put(&Uuid::new_v4().to_string(), None, &note).unwrap()];
        b.app.ledger.apply(&ledger::Request { id: Uuid::new_v4(), who: "Ida".into() }, JOB, &change, &[]).err()
    });
    assert!(matches!(refused, Some(ledger::LedgerError::DiskFull)), "{refused:?}");
    for path in ["/api/jobs", "/api/search?words=gutter", &format!("/api/jobs/{JOB}"), &format!("/api/jobs/{JOB}/bundle.zip")] {
        assert_eq!(b.get(path).await.status, 200, "{path}");
    }
}

#[actix_web::test]
async fn beyond_this_machine_it_answers_under_its_own_names_only_and_asks_for_the_key() {
    let dir = TempDir::new().unwrap();
    let ledger = Arc::new(Ledger::open(dir.path(), Arc::new(FixedClock("2026-11-23T08:00:00Z".parse().unwrap()))).unwrap());
    let mut app = App::new(ledger, "Ida Marrow");
    app.beyond_this_machine = true;
    app.access_key = Some("the key".into());
    app.hosts = vec!["yard-office".into()];
    let b = Bench::of(app, dir);
    let get = async |host: &str, cookie: &str| {
        b.send(Method::GET, "/api/jobs", &[("host", host), ("origin", "http://evil.example"), ("cookie", cookie)], vec![]).await
    };
    let key = "trowel-access=the key";
    for (host, status) in [
        ("evil.example", 403),
        ("evil.example:4310", 403),
        ("yard-office:4310", 200),
        ("127.0.0.1:4310", 200),
        ("192.0.2.7:4310", 200),
        ("[2001:db8::7]:4310", 200),
    ] {
        assert_eq!(get(host, key).await.status, status, "{host}");
    }
    assert_eq!(get("yard-office", "").await.fault().0, 401);
    assert_eq!(get("yard-office", "trowel-access=the kex").await.status, 401);
    let page = b.get("/").await;
    assert_eq!(page.status, 401);
    assert!(String::from_utf8_lossy(&page.body).contains("access key"));
    let typed = |key: &str| format!("key={key}").into_bytes();
    let form = ("content-type", "application/x-www-form-urlencoded");
    assert_eq!(b.send(Method::POST, "/enter", &[form], typed("wrong")).await.status, 401);
    let entered = b.send(Method::POST, "/enter", &[form], typed("the+key")).await;
    assert_eq!(entered.status, 303);
    let cookie = entered.headers.get("set-cookie").unwrap().to_str().unwrap();
    assert!(cookie.contains("HttpOnly") && cookie.contains("SameSite=Strict"), "{cookie}");
}

#[actix_web::test]
async fn every_refusal_is_guarded_and_says_what_to_do() {
    let b = bench().await;
    let foreign = b.send(Method::GET, "/api/jobs", &[("host", "evil.example")], vec![]).await;
    assert_eq!(foreign.status, 403);
    for header in ["content-security-policy", "x-content-type-options", "x-frame-options"] {
        assert!(foreign.headers.contains_key(header), "{header}");
    }
    let key = Uuid::new_v4().to_string();
    let plain = b.send(Method::PUT, &format!("/api/jobs/{JOB}"), &[("idempotency-key", &key)], b"x".to_vec()).await;
    assert!(plain.json()["message"].as_str().unwrap().contains("Content-Type: application/json"));
    let query = b.get("/api/jobs?from=minus").await;
    assert_eq!(query.status, 422);
    assert!(query.json()["message"].as_str().unwrap().contains("/interface"));
    let index = b.get("/index.html").await;
    assert!(!String::from_utf8_lossy(&index.body).contains("__NONCE__"));
    assert_ne!(index.headers.get("cache-control").unwrap(), "public, max-age=31536000, immutable");
    // UTF-16 without its mark is read, not taken for nothing.
    let wide: Vec<u8> = "The gutter sags at the rear.\nA torn boot on the roof.".encode_utf16().flat_map(u16::to_le_bytes).collect();
    let walk = b.bytes(&format!("/api/jobs/{JOB}/walk"), wide).await.json();
    assert!(!walk["notes"].as_array().unwrap().is_empty(), "{walk}");
}

#[core::prelude::v1::test]
fn a_body_that_comes_a_byte_at_a_time_is_given_up() {
    let dir = TempDir::new().unwrap();
    let ledger = Arc::new(Ledger::open(dir.path(), Arc::new(ledger::SystemClock)).unwrap());
    let mut app = App::new(ledger, "Ida Marrow");
    app.limits.patience = Patience { grace: Duration::from_millis(300), pace: 1_000 };
    let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let address = listener.local_addr().unwrap();
    std::thread::spawn(move || actix_web::rt::System::new().block_on(crate::serve(Arc::new(app), listener)));
    let head = |path: &str, kind: &str| {
        format!(
            "POST {path} HTTP/1.1\r\nhost: {address}\r\nidempotency-key: {}\r\ncontent-type: {kind}\r\ncontent-length: 5000\r\n\r\n",
            Uuid::new_v4()
        )
    };
    for request in [
        head("/api/calc/measure", "application/json"),
        head("/api/bundles", "application/zip"),
        head(&format!("/api/jobs/{JOB}/lines"), "application/json"),
    ] {
        let mut stream = TcpStream::connect(address).unwrap();
        stream.set_read_timeout(Some(Duration::from_secs(30))).unwrap();
        stream.write_all(request.as_bytes()).unwrap();
        let mut drip = stream.try_clone().unwrap();
        std::thread::spawn(move || {
            while drip.write_all(b" ").is_ok() {
                std::thread::sleep(Duration::from_millis(40))
            }
        });
        let mut answer = vec![0; 400];
        let n = stream.read(&mut answer).unwrap();
        let said = String::from_utf8_lossy(&answer[..n]).into_owned();
        assert!(said.starts_with("HTTP/1.1 408"), "{said}");
    }
}

/// Many writers on one job over real connections, with readers beside them: every acknowledged note is there, each once, in an unbroken
/// history. How fast is told by the benchmark.
#[core::prelude::v1::test]
fn many_writers_on_one_job_lose_nothing() {
    const WRITERS: usize = 12;
    const EACH: usize = 15;
    let dir = TempDir::new().unwrap();
    let ledger = Arc::new(Ledger::open(dir.path(), Arc::new(ledger::SystemClock)).unwrap());
    let app = Arc::new(App::new(ledger.clone(), "Ida Marrow"));
    let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let address = listener.local_addr().unwrap();
    std::thread::spawn(move || actix_web::rt::System::new().block_on(crate::serve(app, listener)));
    let job = format!("http://{address}/api/jobs/{JOB}");
    let client = reqwest::blocking::Client::new();
    let key = || Uuid::new_v4().to_string();
    let put = |client: &reqwest::blocking::Client, url: &str, body: &Value| {
        client.put(url).header("idempotency-key", key()).json(body).send().unwrap()
    };
    assert!(put(&client, &job, &json!({ "base": null, "body": { "name": "Load" } })).status().is_success());
    let threads: Vec<_> = (0..WRITERS)
        .map(|w| {
            let (client, job) = (client.clone(), job.clone());
            std::thread::spawn(move || {
                let mut kept = Vec::new();
                for n in 0..EACH {
                    let id = Uuid::new_v4().to_string();
                    let note = json!({ "place": { "face": "rear", "zone": "edge" }, "kind": "remark", "text": format!("{w} {n}") });
                    let key = Uuid::new_v4().to_string();
                    // Every third is sent twice at once, as after a lost answer.
                    for _ in 0..=usize::from(n % 3 == 0) {
                        let body = json!({ "base": null, "body": note });
                        let answer = client.put(format!("{job}/notes/{id}")).header("idempotency-key", &key).json(&body).send().unwrap();
                        assert!(answer.status().is_success(), "{}", answer.text().unwrap());
                    }
                    kept.push(id);
                    if n % 5 == 0 {
                        assert!(client.get(&job).send().unwrap().status().is_success());
                    }
                }
                kept
            })
        })
        .collect();
    let mut kept: Vec<String> = threads.into_iter().flat_map(|t| t.join().unwrap()).collect();
    let mut there: Vec<String> = ledger.job(JOB).unwrap().notes.into_iter().map(|n| n.id).collect();
    kept.sort();
    there.sort();
    assert_eq!(there, kept);
    assert_eq!(ledger.history(JOB, 1_000).unwrap().len(), WRITERS * EACH + 1);
    assert_eq!(ledger.check().unwrap().problems, Vec::<String>::new());
}
