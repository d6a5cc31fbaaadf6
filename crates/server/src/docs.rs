//! The description of the interface, served by the application itself.

use crate::{ApiError, calc, pictures};
use actix_web::{HttpResponse, get, web};
use serde_json::{Value, json};
use utoipa::OpenApi;
use utoipa_actix_web::AppExt;

#[derive(OpenApi)]
#[openapi(
    info(title = "Trowel", description = "Everything the page does, over HTTP. Changes carry an Idempotency-Key, made once for each action and kept for its retries, and name the revision they are made on."),
    servers((url = "/api")),
    components(schemas(ApiError, exchange::Bundle, exchange::FileUnit, pictures::Copy))
)]
struct Docs;

/// The OpenAPI description: taken from the routes as they are registered.
pub fn openapi() -> utoipa::openapi::OpenApi {
    let (_, mut api) = actix_web::App::new().into_utoipa_app().openapi(Docs::openapi()).configure(crate::features).split_for_parts();
    calc::describe(&mut api);
    api
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
