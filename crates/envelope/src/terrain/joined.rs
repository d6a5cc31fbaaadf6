//! Basins that have become one water: groups that are joined, and asked which one a basin is in.

/// Groups of basins, each by itself at first.
pub(super) struct Joined {
    of: Vec<u32>,
}

impl Joined {
    pub(super) fn apart(count: usize) -> Joined {
        Joined { of: (0..count as u32).collect() }
    }
    /// The basin that stands for the group of another. Ways are halved as they are gone, so that they stay short.
    pub(super) fn root(&mut self, mut k: u32) -> u32 {
        while self.of[k as usize] != k {
            let next = self.of[self.of[k as usize] as usize];
            self.of[k as usize] = next;
            k = next;
        }
        k
    }
    /// Puts the group of one root to that of another, which stands for both.
    pub(super) fn join(&mut self, root: u32, to: u32) {
        self.of[root as usize] = to;
    }
}
