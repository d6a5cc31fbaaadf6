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
