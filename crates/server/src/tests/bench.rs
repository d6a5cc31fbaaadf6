//! What the tests of the server stand on: an application with a folder of its own, and what is sent to it.

use super::*;

/// An application on a data folder of its own.
pub(super) struct Bench {
    pub(super) app: Arc<App>,
    /// The routes, put together at the first request: to do it for each, with the description that comes with them, takes longer than
    /// most answers.
    routes: OnceCell<Routes>,
    pub(super) folder: TempDir,
}

pub(super) type Routes = Rc<dyn Fn(test::TestRequest) -> Pin<Box<dyn Future<Output = ServiceResponse>>>>;

pub(super) struct Answer {
    pub(super) status: u16,
    pub(super) headers: actix_web::http::header::HeaderMap,
    pub(super) body: Vec<u8>,
}

impl Answer {
    pub(super) fn json(&self) -> Value {
        serde_json::from_slice(&self.body).unwrap_or_else(|e| panic!("{e}: {}", String::from_utf8_lossy(&self.body)))
    }
    /// Status, code and field of a fault.
    pub(super) fn fault(&self) -> (u16, String, String) {
        let j = self.json();
        let text = |k: &str| j[k].as_str().unwrap_or_default().to_owned();
        assert!(text("message").len() > 20, "a fault must say what to do: {j}");
        (self.status, text("code"), text("field"))
    }
}

impl Bench {
    pub(super) fn new() -> Bench {
        Bench::with(Limits::default(), vec![])
    }
    pub(super) fn with(limits: Limits, hosts: Vec<String>) -> Bench {
        let dir = TempDir::new().unwrap();
        let clock = FixedClock("2026-11-23T08:00:00Z".parse().unwrap());
        let ledger = Arc::new(Ledger::open(dir.path(), Arc::new(clock)).unwrap());
        let mut app = App::new(ledger, "Ida Marrow");
        app.limits = limits;
        app.hosts = hosts;
        Bench::of(app, dir)
    }
    pub(super) fn of(app: App, dir: TempDir) -> Bench {
        Bench { app: Arc::new(app), routes: OnceCell::new(), folder: dir }
    }
    pub(super) async fn routes(&self) -> Routes {
        if let Some(there) = self.routes.get() {
            return there.clone();
        }
        let service = test::init_service(
            ActixApp::new()
                .wrap(from_fn(slow::paced))
                .wrap(from_fn(guard::same_origin))
                .wrap(from_fn(guard::headers))
                .configure(configure(self.app.clone())),
        )
        .await;
        let service = Rc::new(service);
        let routes: Routes = Rc::new(move |request| {
            let service = service.clone();
            Box::pin(async move { test::call_service(&*service, request.to_request()).await.map_into_boxed_body() })
        });
        self.routes.get_or_init(|| routes).clone()
    }
    pub(super) async fn send(&self, method: Method, path: &str, headers: &[(&str, &str)], body: Vec<u8>) -> Answer {
        let mut req = test::TestRequest::with_uri(path).method(method).set_payload(body).insert_header(("host", "127.0.0.1"));
        for (k, v) in headers {
            req = req.insert_header((*k, *v));
        }
        let res = (self.routes().await)(req).await;
        Answer { status: res.status().as_u16(), headers: res.headers().clone(), body: test::read_body(res).await.to_vec() }
    }
    pub(super) async fn get(&self, path: &str) -> Answer {
        self.send(Method::GET, path, &[], vec![]).await
    }
    pub(super) async fn change(&self, method: Method, path: &str, body: &Value) -> Answer {
        let id = Uuid::new_v4().to_string();
        self.send(method, path, &[("idempotency-key", &id), ("content-type", "application/json")], body.to_string().into_bytes()).await
    }
    pub(super) async fn bytes(&self, path: &str, body: Vec<u8>) -> Answer {
        let id = Uuid::new_v4().to_string();
        self.send(Method::POST, path, &[("idempotency-key", &id)], body).await
    }
    pub(super) async fn start_job(&self) -> Answer {
        self.change(
            Method::PUT,
            &format!("/api/jobs/{JOB}"),
            &json!({ "base": null, "body": { "name": "Heron Boathouse", "brief": { "front_faces": 200 } } }),
        )
        .await
    }
    pub(super) async fn line(&self, line: &str) -> Answer {
        let body = json!({ "line": line, "place": { "face": "rear", "zone": "edge" } });
        self.change(Method::POST, &format!("/api/jobs/{JOB}/lines"), &body).await
    }
    pub(super) async fn picture(&self, bytes: Vec<u8>) -> Answer {
        self.bytes(&format!("/api/jobs/{JOB}/pictures?name=a.jpg"), bytes).await
    }
    pub(super) async fn view(&self) -> Value {
        self.get(&format!("/api/jobs/{JOB}")).await.json()
    }
}

pub(super) async fn bench() -> Bench {
    let b = Bench::new();
    assert_eq!(b.start_job().await.status, 200);
    b
}

pub(super) fn jpeg(width: u32, height: u32) -> Vec<u8> {
    let mut out = Cursor::new(Vec::new());
    RgbImage::from_fn(width, height, |x, _| Rgb([x as u8, 90, 40])).write_to(&mut out, ImageFormat::Jpeg).unwrap();
    out.into_inner()
}

/// A picture as a phone writes it: turned, with time, heading and place on earth.
pub(super) fn phone_picture() -> Vec<u8> {
    let field = |tag, value| Field { tag, ifd_num: In::PRIMARY, value };
    let degrees =
        |d: u32| ExifValue::Rational(vec![Rational { num: d, denom: 1 }, Rational { num: 0, denom: 1 }, Rational { num: 0, denom: 1 }]);
    let fields = [
        field(Tag::Orientation, ExifValue::Short(vec![6])),
        field(Tag::DateTimeOriginal, ExifValue::Ascii(vec![b"2026:11:18 10:31:00".to_vec()])),
        field(Tag::GPSImgDirection, ExifValue::Rational(vec![Rational { num: 20, denom: 1 }])),
        field(Tag::GPSLatitudeRef, ExifValue::Ascii(vec![b"N".to_vec()])),
        field(Tag::GPSLatitude, degrees(12)),
    ];
    let mut writer = Writer::new();
    fields.iter().for_each(|f| writer.push_field(f));
    let mut exif = Cursor::new(Vec::new());
    writer.write(&mut exif, false).unwrap();
    let mut picture = Jpeg::from_bytes(jpeg(60, 40).into()).unwrap();
    picture.set_exif(Some(exif.into_inner().into()));
    picture.encoder().bytes().to_vec()
}

pub(super) fn exif_of(bytes: &[u8]) -> Option<exif::Exif> {
    exif::Reader::new().read_from_container(&mut Cursor::new(bytes)).ok()
}
