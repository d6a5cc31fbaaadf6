//! Keeping and deleting one entity: what most changes are.

use crate::http::{Ask, Put, block};
use crate::{ApiError, App};
use actix_web::web;
use ledger::{Change, Composed, Entity, Kind, Now, Record, Stored};
use serde::Serialize;

/// Keeps one entity. `fits` says what can be held against it beside the rest of the job, and may complete it from there; what can be
/// said of it alone is checked where it is kept.
pub(crate) async fn keep<T: Entity + Clone + Send + 'static>(
    app: web::Data<App>,
    ask: Ask,
    job: String,
    entity: String,
    put: Put<T>,
    fits: impl FnOnce(&mut T, &Now<'_>) -> Result<(), ApiError> + Send + 'static,
) -> Result<web::Json<Record<T>>, ApiError>
where
    Record<T>: Send,
{
    block(move || {
        let Put { base, body } = put;
        let compose = |now: &Now<'_>| -> Result<_, ApiError> {
            Change::put(&entity, base, &body)?;
            let mut kept = body.clone();
            fits(&mut kept, now)?;
            Ok(Composed::just(vec![Change::put(&entity, base, &kept)?]))
        };
        let (stored, ()) = app.ledger.change(&app.request(&ask), &job, &(&ask.what, base, &body), compose)?;
        one(stored)
    })
    .await
    .map(web::Json)
}

/// Deletes one entity; undo brings it back.
pub(crate) async fn take_out(
    app: web::Data<App>,
    ask: Ask,
    job: String,
    kind: Kind,
    entity: String,
    base: i64,
) -> Result<web::Json<Stored>, ApiError> {
    take_out_if(app, ask, job, kind, entity, base, |_| Ok(())).await
}

/// The same, if nothing stands against it.
pub(crate) async fn take_out_if(
    app: web::Data<App>,
    ask: Ask,
    job: String,
    kind: Kind,
    entity: String,
    base: i64,
    may: impl Fn(&Now<'_>) -> Result<(), ApiError> + Send + 'static,
) -> Result<web::Json<Stored>, ApiError> {
    block(move || {
        let compose = |now: &Now<'_>| -> Result<_, ApiError> {
            may(now)?;
            Ok(Composed::just(vec![Change::delete(kind, &entity, base)]))
        };
        let (mut stored, ()) = app.ledger.change(&app.request(&ask), &job, &(&ask.what, base), compose)?;
        stored.pop().ok_or_else(|| ApiError::internal(&"an empty change"))
    })
    .await
    .map(web::Json)
}

/// The first entity of an answer, typed.
pub(crate) fn one<T: Entity>(stored: Vec<Stored>) -> Result<Record<T>, ApiError> {
    let first = stored.into_iter().next().ok_or_else(|| ApiError::internal(&"an empty change"))?;
    Ok(first.typed()?)
}

/// Every entity of an answer, typed.
pub(crate) fn all<T: Entity + Serialize>(stored: Vec<Stored>) -> Result<Vec<Record<T>>, ApiError> {
    Ok(stored.into_iter().filter(|s| !s.deleted).map(Stored::typed).collect::<Result<_, _>>()?)
}
