//! A few connections for reading, so that reads do not wait behind one another.

use crate::LedgerError;
use rusqlite::Connection;
use std::ops::{Deref, DerefMut};
use std::sync::{Condvar, Mutex, PoisonError};

/// Connections that are free, made beforehand.
pub(crate) struct Readers {
    free: Mutex<Vec<Connection>>,
    back: Condvar,
}

/// A connection that goes back when it is dropped.
pub(crate) struct Reader<'a> {
    pool: &'a Readers,
    connection: Option<Connection>,
}

impl Readers {
    /// So many connections.
    pub(crate) fn new(count: usize, connect: impl Fn() -> Result<Connection, LedgerError>) -> Result<Readers, LedgerError> {
        let free = (0..count).map(|_| connect()).collect::<Result<_, _>>()?;
        Ok(Readers { free: Mutex::new(free), back: Condvar::new() })
    }

    /// The next free connection; waits while all are in use.
    pub(crate) fn take(&self) -> Reader<'_> {
        // A lock poisoned by a panic elsewhere still guards sound connections: reading changes nothing.
        let mut free = self.free.lock().unwrap_or_else(PoisonError::into_inner);
        loop {
            if let Some(connection) = free.pop() {
                return Reader { pool: self, connection: Some(connection) };
            }
            free = self.back.wait(free).unwrap_or_else(PoisonError::into_inner);
        }
    }
}

const HELD: &str = "a reader holds its connection until it is dropped";

impl Deref for Reader<'_> {
    type Target = Connection;
    fn deref(&self) -> &Connection {
        self.connection.as_ref().expect(HELD)
    }
}

impl DerefMut for Reader<'_> {
    fn deref_mut(&mut self) -> &mut Connection {
        self.connection.as_mut().expect(HELD)
    }
}

impl Drop for Reader<'_> {
    fn drop(&mut self) {
        if let Some(c) = self.connection.take() {
            self.pool.free.lock().unwrap_or_else(PoisonError::into_inner).push(c);
            self.pool.back.notify_one();
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::atomic::{AtomicUsize, Ordering};

    /// As many reads as there are connections go beside one another; the next waits for one to come back, and gets that one.
    #[test]
    fn so_many_read_at_once_and_the_next_waits() {
        let made = AtomicUsize::new(0);
        let connect = || {
            made.fetch_add(1, Ordering::Relaxed);
            Ok(Connection::open_in_memory()?)
        };
        let pool = Readers::new(3, connect).unwrap();
        let held: Vec<Reader<'_>> = (0..3).map(|_| pool.take()).collect();
        assert!(pool.free.lock().unwrap().is_empty());
        std::thread::scope(|s| {
            let next = s.spawn(|| pool.take().query_row("SELECT 7", [], |r| r.get::<_, i64>(0)).unwrap());
            drop(held);
            assert_eq!(next.join().unwrap(), 7);
        });
        assert_eq!((pool.free.lock().unwrap().len(), made.load(Ordering::Relaxed)), (3, 3));
    }
}
