//! The description of the interface, served by the application itself.

use crate::{ApiError, calc, catalogue, ground, items, jobs, notes, out, pictures, practices, rainwater, roof};
use actix_web::{HttpResponse, get, web};
use serde_json::{Value, json};
use utoipa::OpenApi;

#[derive(OpenApi)]
#[openapi(
    info(title = "Trowel", description = "Everything the page does, over HTTP. Changes carry an Idempotency-Key and name the revision they are made on."),
    servers((url = "/api")),
    paths(
        calc::measure, calc::note, calc::round, calc::traverse, calc::roof, calc::pitch, calc::access, calc::roof_account, calc::life, calc::rain, calc::runoff, calc::gutter, calc::gutter_run, calc::downspout, calc::rainwater, calc::overshoot, calc::level, calc::transect, calc::surface, calc::ground, calc::rain_test, ground::show_ground, ground::save_ground, ground::try_ground, ground::run_rain_test, ground::show_mending, ground::read_readings, ground::readings_as_csv, ground::readings_as_geojson, ground::read_altimeter, ground::zero_altimeter, ground::read_stick, rainwater::show_rainwater, rainwater::save_rainwater, rainwater::try_rainwater, rainwater::ask_weather, roof::show_roof, roof::save_roof, roof::answer_detail, roof::look_up, roof::plan_file, roof::roof_geojson, roof::roof_dxf, roof::read_geojson, roof::wear_drawing, roof::roof_choices, catalogue::choices, jobs::list, jobs::show, jobs::save, jobs::remove, jobs::mark, jobs::unmark, jobs::close,
        jobs::undo, jobs::redo, jobs::history, jobs::show_then, jobs::search, notes::read_walk, notes::keep_line, items::count_items, items::save_item, items::remove_item,
        practices::practices, practices::practice_file, practices::read_practice, practices::save_practice, practices::remove_practice, practices::try_practice, notes::save_note, notes::remove_note, pictures::attach, pictures::save_picture, pictures::remove_picture, pictures::show_picture,
        out::overview, out::page, out::pdf, out::csv, out::export_bundle, out::take_in
    ),
    components(schemas(ApiError, report::Bundle, report::FileUnit, pictures::Copy))
)]
struct Docs;

/// The OpenAPI description.
pub fn openapi() -> utoipa::openapi::OpenApi {
    Docs::openapi()
}

/// The JSON Schema of `bundle.json`, taken from the same description.
pub fn bundle_schema() -> String {
    let mut all = serde_json::to_value(openapi()).unwrap_or(Value::Null);
    let defs = all["components"]["schemas"].take();
    let schema = json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Trowel bundle",
        "$ref": "#/$defs/Bundle",
        "$defs": needed(&defs),
    });
    serde_json::to_string_pretty(&schema).unwrap_or_default().replace("#/components/schemas/", "#/$defs/")
}

/// Only the schemas a bundle leads to.
fn needed(defs: &Value) -> Value {
    fn walk(v: &Value, defs: &Value, out: &mut serde_json::Map<String, Value>) {
        match v {
            Value::Object(map) => {
                let name = map.get("$ref").and_then(Value::as_str).and_then(|r| r.strip_prefix("#/components/schemas/"));
                if let Some(name) = name.filter(|n| !out.contains_key(*n)) {
                    out.insert(name.to_owned(), defs[name].clone());
                    walk(&defs[name], defs, out);
                }
                map.values().for_each(|v| walk(v, defs, out));
            }
            Value::Array(list) => list.iter().for_each(|v| walk(v, defs, out)),
            _ => {}
        }
    }
    let mut out = serde_json::Map::new();
    walk(&json!({ "$ref": "#/components/schemas/Bundle" }), defs, &mut out);
    Value::Object(out)
}

pub(crate) fn configure(cfg: &mut web::ServiceConfig) {
    cfg.service(openapi_json).service(schema_json).service(health);
}

#[get("/openapi.json")]
async fn openapi_json() -> HttpResponse {
    HttpResponse::Ok().json(openapi())
}

#[get("/bundle.schema.json")]
async fn schema_json() -> HttpResponse {
    HttpResponse::Ok().content_type("application/schema+json").body(bundle_schema())
}

#[get("/health")]
async fn health() -> HttpResponse {
    HttpResponse::Ok().json(json!({ "name": "Trowel", "version": env!("CARGO_PKG_VERSION") }))
}
