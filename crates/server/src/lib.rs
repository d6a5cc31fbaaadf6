//! The HTTP edge: parse, call, answer. Rules are in `envelope`, keeping is in `ledger`, what leaves is in `report`.

mod api;
mod assets;
mod calc;
mod catalogue;
mod docs;
mod error;
mod ground;
mod guard;
mod items;
mod jobs;
mod notes;
mod out;
mod pictures;
mod practices;
mod rainwater;
mod roof;
mod state;

pub use docs::{bundle_schema, openapi};
pub use error::{ApiError, Code};
pub use out::import;
pub use state::{App, Limits};

use actix_web::middleware::from_fn;
use actix_web::{App as ActixApp, HttpServer, web};
use std::net::TcpListener;
use std::sync::Arc;
use tracing_actix_web::TracingLogger;

/// Routes, limits and error shapes. Tests build the application with the same function as the binary.
pub fn configure(app: Arc<App>) -> impl FnOnce(&mut web::ServiceConfig) + Clone {
    move |cfg: &mut web::ServiceConfig| {
        let json = web::JsonConfig::default().limit(app.limits.json_bytes).error_handler(|e, _| ApiError::from_json(e).into());
        let path = web::PathConfig::default().error_handler(|e, _| ApiError::new(Code::BadRequest, e.to_string()).into());
        let query = web::QueryConfig::default().error_handler(|e, _| ApiError::new(Code::BadRequest, e.to_string()).into());
        cfg.app_data(web::Data::from(app)).app_data(json).app_data(path).app_data(query);
        cfg.service(
            web::scope("/api")
                .configure(docs::configure)
                .configure(calc::configure)
                .configure(catalogue::configure)
                .configure(jobs::configure)
                .configure(notes::configure)
                .configure(items::configure)
                .configure(roof::configure)
                .configure(rainwater::configure)
                .configure(ground::configure)
                .configure(practices::configure)
                .configure(pictures::configure)
                .configure(out::configure)
                .default_service(web::to(|| async { ApiError::new(Code::NotFound, "There is nothing at this address.").into_response() })),
        );
        cfg.default_service(web::get().to(assets::serve));
    }
}

/// Serves on an open listener until the process is told to stop; writes that were begun are finished.
///
/// # Errors
/// When the listener cannot be used.
pub async fn serve(app: Arc<App>, listener: TcpListener) -> std::io::Result<()> {
    HttpServer::new(move || {
        ActixApp::new()
            .wrap(from_fn(guard::headers))
            .wrap(from_fn(guard::same_origin))
            .wrap(TracingLogger::default())
            .configure(configure(app.clone()))
    })
    .shutdown_timeout(30)
    .listen(listener)?
    .run()
    .await
}

#[cfg(test)]
mod tests;
