//! Two things at once, each on a core of its own.

/// Works out both; the second on a thread of its own. A panic of that thread is this one's.
pub(crate) fn both<A, B: Send>(here: impl FnOnce() -> A, there: impl FnOnce() -> B + Send) -> (A, B) {
    std::thread::scope(|s| {
        let there = s.spawn(there);
        (here(), there.join().unwrap_or_else(|e| std::panic::resume_unwind(e)))
    })
}

#[cfg(test)]
mod tests {
    use super::both;

    #[test]
    fn each_gives_its_own_and_a_panic_is_not_swallowed() {
        let figures = [1.0, 2.0];
        assert_eq!(both(|| figures[0], || figures[1]), (1.0, 2.0));
        let told = std::panic::catch_unwind(|| both(|| (), || panic!("no water")));
        assert_eq!(told.unwrap_err().downcast_ref::<&str>(), Some(&"no water"));
    }
}
