//! Work that would hold up the server, and its limits.
//!
//! Reading and writing what is kept is quick and goes straight to a thread. Pictures, typesetting, storms, searches and free
//! calculations are heavy: only so many run at once, only so many wait, and what nobody waits for any more is not begun.

use super::{ApiError, Code};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::time::Duration;
use tokio::sync::Semaphore;

/// The door for quick work that blocks: SQLite, small files.
pub(crate) async fn block<T: Send + 'static>(work: impl FnOnce() -> Result<T, ApiError> + Send + 'static) -> Result<T, ApiError> {
    actix_web::web::block(work).await.map_err(|e| ApiError::internal(&e))?
}

/// The queue for heavy work.
#[derive(Debug)]
pub struct Work {
    seats: Arc<Semaphore>,
    waiting: AtomicUsize,
    most_waiting: usize,
    longest: Duration,
}

/// Says whether anybody still waits for the work that is done. Long work asks it now and then.
#[derive(Debug, Clone, Default)]
pub(crate) struct Wanted(Arc<AtomicBool>);

impl Wanted {
    /// Nobody waits any more.
    pub(crate) fn is_over(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }
}

/// Tells the work when whoever asked is gone.
struct Asking(Wanted);

impl Drop for Asking {
    fn drop(&mut self) {
        self.0.0.store(true, Ordering::Relaxed);
    }
}

/// Counts those who wait, also when they leave.
struct Waiting<'a>(&'a AtomicUsize);

impl Drop for Waiting<'_> {
    fn drop(&mut self) {
        self.0.fetch_sub(1, Ordering::Relaxed);
    }
}

impl Default for Work {
    fn default() -> Self {
        let cores = std::thread::available_parallelism().map_or(2, usize::from);
        // One place fewer than there are cores stays free for everything else, but never none at all.
        Work::new((cores - 1).max(1) + usize::from(cores == 2), 24, Duration::from_secs(120))
    }
}

impl Work {
    /// So many at once, so many in the queue, and so long an answer is waited for.
    pub fn new(at_once: usize, most_waiting: usize, longest: Duration) -> Work {
        Work { seats: Arc::new(Semaphore::new(at_once)), waiting: AtomicUsize::new(0), most_waiting, longest }
    }

    /// Waits for a place in the work; given up when too many wait already.
    async fn seat(&self) -> Result<tokio::sync::OwnedSemaphorePermit, ApiError> {
        if let Ok(seat) = self.seats.clone().try_acquire_owned() {
            return Ok(seat);
        }
        if self.waiting.fetch_add(1, Ordering::Relaxed) >= self.most_waiting {
            self.waiting.fetch_sub(1, Ordering::Relaxed);
            return Err(ApiError::new(
                Code::Busy,
                "Too much is being worked out already. Nothing was changed; try again in a few seconds.",
            ));
        }
        let _waiting = Waiting(&self.waiting);
        self.seats.clone().acquire_owned().await.map_err(|e| ApiError::internal(&e))
    }

    /// Heavy work. Its place is given back when it has ended, also when nobody waited for it to the end.
    pub(crate) async fn heavy<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Wanted) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let seat = self.seat().await?;
        let asking = Asking(Wanted::default());
        let wanted = asking.0.clone();
        let running = actix_web::web::block(move || {
            let _seat = seat;
            work(&wanted)
        });
        match tokio::time::timeout(self.longest, running).await {
            Ok(done) => done.map_err(|e| ApiError::internal(&e))?,
            Err(_) => Err(ApiError::new(
                Code::TooLong,
                "This took too long and was given up. Nothing was changed; ask for less at once: a shorter storm, a coarser grid, fewer parts.",
            )),
        }
    }

    /// Heavy work that tells as it goes; `work` ends when telling fails.
    pub(crate) async fn telling(&self, work: impl FnOnce() + Send + 'static) -> Result<(), ApiError> {
        let seat = self.seat().await?;
        actix_web::rt::task::spawn_blocking(move || {
            let _seat = seat;
            work();
        });
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[actix_web::test]
    async fn so_many_at_once_so_many_waiting_and_the_rest_is_told_to_come_back() {
        let work = Arc::new(Work::new(1, 2, Duration::from_secs(30)));
        let (free, held) = std::sync::mpsc::channel::<()>();
        let first = {
            let w = work.clone();
            actix_web::rt::spawn(async move {
                w.heavy(move |_| {
                    let _ = held.recv();
                    Ok(1)
                })
                .await
            })
        };
        while work.seats.available_permits() > 0 {
            tokio::task::yield_now().await;
        }
        let wait = |n: i32| {
            let w = work.clone();
            actix_web::rt::spawn(async move { w.heavy(move |_| Ok(n)).await })
        };
        let (second, third) = (wait(2), wait(3));
        while work.waiting.load(Ordering::Relaxed) < 2 {
            tokio::task::yield_now().await;
        }
        assert_eq!(work.heavy(|_| Ok(4)).await.unwrap_err().code, Code::Busy);
        // One that leaves the queue makes room, and its work is never begun.
        third.abort();
        while work.waiting.load(Ordering::Relaxed) > 1 {
            tokio::task::yield_now().await;
        }
        free.send(()).unwrap();
        assert_eq!((first.await.unwrap().unwrap(), second.await.unwrap().unwrap()), (1, 2));
        assert_eq!(work.heavy(|_| Ok(5)).await.unwrap(), 5);
    }

    #[actix_web::test]
    async fn work_hears_when_nobody_waits_any_more_and_holds_its_place_until_it_ends() {
        let work = Work::new(1, 2, Duration::from_millis(20));
        let (tell, told) = std::sync::mpsc::channel();
        let given_up = work
            .heavy(move |wanted| {
                while !wanted.is_over() {
                    std::thread::yield_now();
                }
                tell.send(()).unwrap();
                Ok(())
            })
            .await;
        assert_eq!(given_up.unwrap_err().code, Code::TooLong);
        actix_web::web::block(move || told.recv()).await.unwrap().unwrap();
        while work.seats.available_permits() == 0 {
            tokio::task::yield_now().await;
        }
    }
}
