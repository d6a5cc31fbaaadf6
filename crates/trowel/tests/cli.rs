//! The program as a person runs it: as a process.

use serde_json::{Value, json};
use std::io::{BufRead, BufReader, Write};
use std::path::Path;
use std::process::{Child, Command, Output, Stdio};
use tempfile::TempDir;

fn trowel(data: &Path, args: &[&str], input: &str) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_trowel"))
        .arg("--data")
        .arg(data)
        .args(args)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    child.stdin.take().unwrap().write_all(input.as_bytes()).unwrap();
    child.wait_with_output().unwrap()
}

fn text(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).into_owned()
}

#[test]
fn calc_reads_json_and_prints_json() {
    let dir = TempDir::new().unwrap();
    let out = trowel(dir.path(), &["calc", "measure"], r#"{"text":"3'4\""}"#);
    assert!(out.status.success());
    assert_eq!(serde_json::from_slice::<Value>(&out.stdout).unwrap()["si"], json!(1.016));
    let file = dir.path().join("note.json");
    std::fs::write(&file, r#"{"line":"moss","place":{"face":"left","zone":"roof"}}"#).unwrap();
    let out = trowel(dir.path(), &["calc", "note", file.to_str().unwrap()], "");
    assert_eq!(serde_json::from_slice::<Value>(&out.stdout).unwrap()["notes"][0]["condition"], "roof-growth-moss");
}

#[test]
fn bad_input_ends_with_two_and_one_line() {
    let dir = TempDir::new().unwrap();
    for (args, input) in [
        (&["calc", "measure"][..], "{"),
        (&["calc", "measure"], r#"{"text":"blue"}"#),
        (&["calc", "nothing"], "{}"),
        (&["calc", "note"], r#"{"line":"x","place":{"zone":"roof"}}"#),
        (&["calc", "measure", "/no/such/file.json"], ""),
        (&["calc", "roof"], r#"{"masses":[]}"#),
        (&["calc", "roof"], r#"{"masses":[{"id":"A","centre_m":[0,0],"len_u_m":4,"len_v_m":4,"eave_height_m":3,"pitch":0,"form":"hip"}]}"#),
        (&["calc", "pitch"], r#"{"how":"typed","text":"3 ft"}"#),
        (&["calc", "access"], r#"{"pitch":0.5,"eave_m":-3}"#),
        (&["calc", "rain"], r#"{"i5_mm_h":34,"i60_mm_h":132}"#),
        (
            &["calc", "gutter"],
            r#"{"shape":"rect","width_m":0,"depth_m":0.1,"length_m":9,"slope":0,"manning_n":0.012,"catchment_width_m":6,"rain_mm_h":125}"#,
        ),
        (&["calc", "downspout"], r#"{"shape":"round","diameter_mm":80,"head_at_outlet_mm":30,"rain_mm_h":0}"#),
    ] {
        let out = trowel(dir.path(), args, input);
        assert_eq!((out.status.code(), out.stdout.len()), (Some(2), 0), "{args:?}");
        let said = text(&out.stderr);
        assert!(said.trim_end().lines().count() == 1 && said.len() > 30, "{args:?}: {said}");
    }
}

#[test]
fn a_job_goes_out_as_files_and_comes_back() {
    let dir = TempDir::new().unwrap();
    let (data, other) = (dir.path().join("data"), dir.path().join("other"));
    let file = |name: &str| dir.path().join(name).to_str().unwrap().to_owned();
    assert!(trowel(&data, &["demo", "--load-only"], "").status.success());
    for (args, name, begins) in [
        (["report", "quarry", "-o"], "q.pdf", &b"%PDF"[..]),
        (["export", "quarry", "-o"], "q.zip", b"PK"),
        (["export", "quarry", "-o"], "q.csv", b"number,urgency"),
    ] {
        let out = trowel(&data, &[&args[..], &[&file(name)]].concat(), "");
        assert!(out.status.success(), "{}", text(&out.stderr));
        assert!(std::fs::read(file(name)).unwrap().starts_with(begins), "{name}");
    }
    assert!(text(&trowel(&other, &["import", &file("q.zip")], "").stdout).contains("Quarry Row, plot 7 was read in."));
    assert!(!trowel(&other, &["import", &file("q.zip")], "").status.success(), "twice");
    trowel(&other, &["export", "quarry", "-o", &file("again.csv")], "");
    assert_eq!(std::fs::read(file("again.csv")).unwrap(), std::fs::read(file("q.csv")).unwrap());
    // The other cuts, beside one another; a name that is the beginning of another is still a name.
    let cuts: [(&[&str], &str); 2] =
        [(&["report", "quarry", "--note", "--letter"], "n.pdf"), (&["report", "Thistlewick Animal Clinic", "--trade", "Roofer"], "r.pdf")];
    std::thread::scope(|at_once| {
        for (args, name) in cuts {
            let (data, file) = (&data, &file);
            at_once.spawn(move || {
                let out = trowel(data, &[args, &["-o", &file(name)]].concat(), "");
                assert!(out.status.success() && std::fs::read(file(name)).unwrap().starts_with(b"%PDF"), "{}", text(&out.stderr));
            });
        }
    });
    let none = trowel(&data, &["report", "quarry", "--trade", "Cook", "-o", &file("c.pdf")], "");
    assert!(!none.status.success() && text(&none.stderr).contains("This report has work for:"), "{}", text(&none.stderr));
    // a backup, and a look at both
    assert!(trowel(&data, &["backup", &file("all.zip")], "").status.success());
    assert!(text(&trowel(&data, &["check"], "").stdout).contains("all is sound"));
    let ambiguous = trowel(&data, &["report", "", "-o", &file("x.pdf")], "");
    assert!(text(&ambiguous.stderr).contains("4 jobs begin with"), "{}", text(&ambiguous.stderr));
}

#[test]
fn a_folder_without_data_is_not_made_by_looking() {
    let dir = TempDir::new().unwrap();
    let data = dir.path().join("nothing");
    let out = trowel(&data, &["check"], "");
    assert!(!out.status.success() && text(&out.stderr).contains("There is no data in"));
    assert!(!data.exists());
}

struct Serving(Child, String);

impl Serving {
    fn start(data: &Path) -> Serving {
        let mut child = Command::new(env!("CARGO_BIN_EXE_trowel"))
            .arg("--data")
            .arg(data)
            .args(["serve", "--port", "0"])
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let mut line = String::new();
        BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
        let address = line.trim().rsplit(' ').next().unwrap().to_owned();
        Serving(child, address)
    }
}

impl Drop for Serving {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// What was answered with "kept" is there after the process is killed in the middle of saving, and nothing is half there.
#[test]
fn nothing_acknowledged_is_lost_when_the_server_is_killed() {
    let dir = TempDir::new().unwrap();
    let serving = Serving::start(dir.path());
    let job = "0190aaaa-0000-7000-8000-00000000000a";
    let address = serving.1.clone();
    let client = reqwest::blocking::Client::new();
    let put = |path: String, id: u32, body: Value| {
        client.put(format!("{address}{path}")).header("idempotency-key", format!("0190cccc-0000-7000-8000-{id:012x}")).json(&body).send()
    };
    put(format!("/api/jobs/{job}"), 0, json!({ "base": null, "body": { "name": "Heron" } })).unwrap().error_for_status().unwrap();
    let kept = std::sync::Mutex::new(Vec::new());
    std::thread::scope(|s| {
        s.spawn(|| {
            for i in 1..100_000_u32 {
                let id = format!("0190dddd-0000-7000-8000-{i:012x}");
                let body =
                    json!({ "base": null, "body": { "place": { "zone": "inside" }, "kind": "remark", "text": format!("note {i}") } });
                match put(format!("/api/jobs/{job}/notes/{id}"), i, body) {
                    Ok(r) if r.status().is_success() => kept.lock().unwrap().push(id),
                    _ => return,
                }
            }
        });
        while kept.lock().unwrap().len() < 40 {
            std::thread::sleep(std::time::Duration::from_millis(5));
        }
        drop(serving); // SIGKILL
    });
    let out = trowel(dir.path(), &["check"], "");
    assert!(text(&out.stdout).contains("all is sound"), "{}", text(&out.stdout));
    let again = Serving::start(dir.path());
    let view: Value = client.get(format!("{}/api/jobs/{job}", again.1)).send().unwrap().json().unwrap();
    let there: Vec<&str> = view["notes"].as_array().unwrap().iter().filter_map(|n| n["id"].as_str()).collect();
    let kept = kept.into_inner().unwrap();
    assert!(kept.len() >= 40);
    assert!(kept.iter().all(|id| there.contains(&id.as_str())), "an acknowledged note is gone");
    assert!(there.len() <= kept.len() + 1, "only the one in flight may be there unanswered");
}

/// Told to stop, the server finishes what it began and says where everything is.
#[cfg(unix)]
#[test]
fn a_server_that_is_told_to_stop_stops_well() {
    let dir = TempDir::new().unwrap();
    let mut serving = Serving::start(dir.path());
    // It is ready to be told once it answers.
    assert!(reqwest::blocking::get(format!("{}/api/health", serving.1)).unwrap().status().is_success());
    let pid = serving.0.id().to_string();
    assert!(Command::new("kill").args(["-TERM", &pid]).status().unwrap().success());
    assert!(serving.0.wait().unwrap().success());
    assert!(text(&trowel(dir.path(), &["check"], "").stdout).contains("all is sound"));
}

#[test]
fn a_whole_walk_is_read_from_a_file_and_bad_ones_are_refused() {
    let dir = TempDir::new().unwrap();
    let file = |name: &str, bytes: &[u8]| {
        let path = dir.path().join(name);
        std::fs::write(&path, bytes).unwrap();
        path
    };
    let calc = |path: &Path| Command::new(env!("CARGO_BIN_EXE_trowel")).args(["calc", "round"]).arg(path).output().unwrap();
    let good = calc(&file("a.vtt", b"WEBVTT\n\n00:02.000 --> 00:04.000\nNow the rear. Torn boot.\n"));
    let out: Value = serde_json::from_slice(&good.stdout).unwrap();
    assert_eq!(
        (out["notes"][0]["condition"].as_str(), out["notes"][0]["face"].as_str(), out["notes"][0]["t_s"].as_f64()),
        (Some("pipe-boot-torn"), Some("rear"), Some(2.0))
    );
    for (name, bytes, says) in
        [("b.txt", b"gutter \xff\xfe".to_vec(), "UTF-8"), ("c.txt", vec![b'a'; 50_000_000], "50 MB"), ("d.txt", vec![], "no words")]
    {
        let bad = calc(&file(name, &bytes));
        let told = String::from_utf8_lossy(&bad.stderr).into_owned();
        assert_eq!(bad.status.code(), Some(2), "{name}");
        assert!(told.contains(says) && told.trim().lines().count() == 1, "{told}");
    }
}
