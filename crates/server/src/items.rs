//! Openings, fittings and gutter runs, counted as they are met.

use crate::ApiError;
use crate::App;
use crate::http::block;
use crate::http::{Ask, Base, Put, id};
use crate::keep::{all, keep, take_out};
use actix_web::{delete, post, put, web};
use envelope::site::{Face, Item, ItemKind, next_names};
use ledger::{Change, Composed, Kind, Now, Record, Stored};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_actix_web::service_config::ServiceConfig;
use uuid::Uuid;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(count_items).service(save_item).service(remove_item);
}

/// So many of a kind on a face.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub(crate) struct Count {
    face: Face,
    kind: ItemKind,
    count: u32,
}

/// What was counted.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct Counted {
    /// In order, from the left.
    items: Vec<Record<Item>>,
}

/// Most of a kind counted at once.
const MOST_AT_ONCE: u32 = 60;

/// Counts more of a kind on a face; they are named on from the last.
#[utoipa::path(tag = "round", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Count, responses((status = 200, body = Counted), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/items")]
pub(crate) async fn count_items(
    app: web::Data<App>,
    path: web::Path<String>,
    ask: Ask,
    count: web::Json<Count>,
) -> Result<web::Json<Counted>, ApiError> {
    let job = id(&path, "job")?;
    let count = count.into_inner();
    if count.count == 0 || count.count > MOST_AT_ONCE {
        return Err(ApiError::field("count", format!("Count from 1 to {MOST_AT_ONCE} at once.")));
    }
    block(move || {
        let compose = |now: &Now<'_>| -> Result<_, ApiError> {
            let here = now.all::<Item>()?;
            let names = next_names(here.iter().map(|i| &i.body), count.face, count.kind, count.count);
            let item = |name| Item { face: count.face, kind: count.kind, name, label: String::new(), from_left_m: None, seen: vec![] };
            let id = |i: usize| Uuid::new_v5(&ask.id, i.to_string().as_bytes()).to_string();
            let changes = names.into_iter().enumerate().map(|(i, name)| Change::put(&id(i), None, &item(name)));
            Ok(Composed::just(changes.collect::<Result<_, _>>()?))
        };
        let (stored, ()) = app.ledger.change(&app.request(&ask), &job, &(&ask.what, &count), compose)?;
        Ok(Counted { items: all(stored)? })
    })
    .await
    .map(web::Json)
}

/// Keeps an item: what it is called, where it is, what was looked at.
#[utoipa::path(tag = "round", params(("idempotency-key" = uuid::Uuid, Header)), request_body = Put<Item>, responses((status = 200, body = Record<Item>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/items/{item}")]
pub(crate) async fn save_item(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    ask: Ask,
    put: web::Json<Put<Item>>,
) -> Result<web::Json<Record<Item>>, ApiError> {
    let (job, item) = path.into_inner();
    let (job, item) = (id(&job, "job")?, id(&item, "item")?);
    keep(app, ask, job, item, put.into_inner(), |_, _| Ok(())).await
}

/// Takes an item off the count; undo brings it back.
#[utoipa::path(tag = "round", params(("idempotency-key" = uuid::Uuid, Header), Base), responses((status = 200, body = Stored), (status = 409, body = ApiError)))]
#[delete("/jobs/{job}/items/{item}")]
pub(crate) async fn remove_item(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    ask: Ask,
    base: web::Query<Base>,
) -> Result<web::Json<Stored>, ApiError> {
    let (job, item) = path.into_inner();
    take_out(app, ask, id(&job, "job")?, Kind::Item, id(&item, "item")?, base.base).await
}
