//! What runs over the ground in one step, by cell and by where it came from.

/// Water on its way down in one step. Most cells carry the rain of one origin alone, and need no list of them all.
#[derive(Debug, Clone)]
pub(super) struct Running {
    origins: usize,
    /// By cell: all that runs there, m³, and where from.
    pub(super) all: Vec<f64>,
    from: Vec<Whence>,
    /// By cell and origin, only where it is mixed.
    pub(super) mixed: Vec<f64>,
}

/// Where the water that runs over a cell comes from.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Whence {
    Nowhere,
    One(u16),
    Many,
}

impl Running {
    pub(super) fn new(cells: usize, origins: usize) -> Running {
        Running { origins, all: vec![0.0; cells], from: vec![Whence::Nowhere; cells], mixed: vec![0.0; cells * origins] }
    }
    pub(super) fn of(&mut self, k: usize) -> &mut [f64] {
        &mut self.mixed[k * self.origins..(k + 1) * self.origins]
    }
    /// From now on told by origin.
    pub(super) fn mixes(&mut self, k: usize) {
        if let Whence::One(o) = self.from[k] {
            let all = self.all[k];
            self.of(k)[usize::from(o)] = all;
        }
        self.from[k] = Whence::Many;
    }
    pub(super) fn add(&mut self, k: usize, origin: usize, m3: f64) {
        match self.from[k] {
            Whence::Nowhere => self.from[k] = Whence::One(origin as u16),
            Whence::One(o) if usize::from(o) == origin => {}
            _ => {
                self.mixes(k);
                self.of(k)[origin] += m3;
            }
        }
        self.all[k] += m3;
    }
    pub(super) fn add_mix(&mut self, k: usize, mix: &[f64]) {
        self.mixes(k);
        self.of(k).iter_mut().zip(mix).for_each(|(r, m)| *r += m);
        self.all[k] += mix.iter().sum::<f64>();
    }
    /// Takes what runs over a cell away; of a mixture the parts come into `mix`.
    pub(super) fn take(&mut self, k: usize, mix: &mut [f64]) -> (f64, Whence) {
        let from = std::mem::replace(&mut self.from[k], Whence::Nowhere);
        if from == Whence::Many {
            mix.iter_mut().zip(self.of(k)).for_each(|(m, r)| *m = std::mem::take(r));
        }
        (std::mem::take(&mut self.all[k]), from)
    }
}
