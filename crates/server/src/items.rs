//! Openings, fittings and gutter runs, counted as they are met.

use crate::ApiError;
use crate::api::{Base, ChangeId, Put, id};
use crate::jobs::{delete_one, record};
use crate::state::{App, block};
use actix_web::{delete, post, put, web};
use envelope::site::{Face, Item, ItemKind, next_names};
use ledger::{Change, Kind, Record, Stored};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

pub(crate) fn configure(cfg: &mut web::ServiceConfig) {
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
#[utoipa::path(tag = "round", params(("idempotency-key" = String, Header)), request_body = Count, responses((status = 200, body = Counted), (status = 422, body = ApiError)))]
#[post("/jobs/{job}/items")]
pub(crate) async fn count_items(
    app: web::Data<App>,
    path: web::Path<String>,
    change: ChangeId,
    count: web::Json<Count>,
) -> Result<web::Json<Counted>, ApiError> {
    let job = id(&path, "job")?;
    let Count { face, kind, count } = count.into_inner();
    if count == 0 || count > MOST_AT_ONCE {
        return Err(ApiError::field("count", format!("Count from 1 to {MOST_AT_ONCE} at once.")));
    }
    block(move || {
        let whole = app.ledger.job(&job)?;
        let names = next_names(whole.items.iter().map(|i| &i.body), face, kind, count);
        let mut changes = Vec::new();
        for (i, name) in names.into_iter().enumerate() {
            let item = Item { face, kind, name, label: String::new(), from_left_m: None, seen: vec![] };
            item.check().map_err(|e| ApiError::field("name", e))?;
            changes.push(Change::put(&Uuid::new_v5(&change.0, i.to_string().as_bytes()).to_string(), None, &item)?);
        }
        let stored = app.ledger.apply(&app.request(change.0), &job, &changes, &[])?;
        Ok(Counted { items: stored.into_iter().map(|s| record(vec![s])).collect::<Result<Vec<_>, _>>()? })
    })
    .await
    .map(web::Json)
}

/// Keeps an item: what it is called, where it is, what was looked at.
#[utoipa::path(tag = "round", params(("idempotency-key" = String, Header)), request_body = Put<Item>, responses((status = 200, body = Record<Item>), (status = 409, body = ApiError), (status = 422, body = ApiError)))]
#[put("/jobs/{job}/items/{item}")]
pub(crate) async fn save_item(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    change: ChangeId,
    put: web::Json<Put<Item>>,
) -> Result<web::Json<Record<Item>>, ApiError> {
    let (job, item) = path.into_inner();
    let (job, item) = (id(&job, "job")?, id(&item, "item")?);
    let Put { base, body } = put.into_inner();
    body.check().map_err(|e| ApiError::field("name", e))?;
    block(move || record(app.ledger.apply(&app.request(change.0), &job, &[Change::put(&item, base, &body)?], &[])?)).await.map(web::Json)
}

/// Takes an item off the count; undo brings it back.
#[utoipa::path(tag = "round", params(("idempotency-key" = String, Header), Base), responses((status = 200, body = Stored), (status = 409, body = ApiError)))]
#[delete("/jobs/{job}/items/{item}")]
pub(crate) async fn remove_item(
    app: web::Data<App>,
    path: web::Path<(String, String)>,
    change: ChangeId,
    base: web::Query<Base>,
) -> Result<web::Json<Stored>, ApiError> {
    let (job, item) = path.into_inner();
    delete_one(app, id(&job, "job")?, Kind::Item, id(&item, "item")?, change, base.base).await
}
