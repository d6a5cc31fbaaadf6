//! The same gutter by brute force: the shallow-water equations with side inflow, stepped through time on a fine grid until
//! nothing changes any more. Independent of the solver, and what it is weighed against.

use envelope::gutter::G;

/// A rectangle: metres, fall per metre, Manning's roughness, side inflow in m²/s.
pub(crate) struct Brute {
    pub(crate) width: f64,
    pub(crate) length: f64,
    pub(crate) fall: f64,
    pub(crate) roughness: f64,
    pub(crate) inflow: f64,
}

/// Depths in the middle of each cell, from the closed end to the free drop, when they have settled.
pub(crate) fn settled(b: &Brute, cells: usize) -> Vec<f64> {
    let dx = b.length / cells as f64;
    // Per metre of width: depth and flow.
    let rain = b.inflow / b.width;
    let all = rain * b.length;
    let critical = |q: f64| (q * q / G).cbrt();
    let mut h = vec![critical(all); cells];
    let mut q: Vec<f64> = (0..cells).map(|k| rain * (k as f64 + 0.5) * dx).collect();
    let fast = |h: f64, q: f64| (q / h).abs() + (G * h).sqrt();
    let flux = |l: (f64, f64), r: (f64, f64)| {
        let of = |(h, q): (f64, f64)| (q, q * q / h + G * h * h / 2.0);
        let (a, c, s) = (of(l), of(r), fast(l.0, l.1).max(fast(r.0, r.1)));
        ((a.0 + c.0 - s * (r.0 - l.0)) / 2.0, (a.1 + c.1 - s * (r.1 - l.1)) / 2.0)
    };
    loop {
        let quickest = (0..cells).map(|k| fast(h[k], q[k])).fold(0.0, f64::max);
        let dt = 0.45 * dx / quickest;
        let drop = critical(q[cells - 1].max(1e-9));
        let cell = |k: usize| (h[k], q[k]);
        let faces: Vec<(f64, f64)> = (0..=cells)
            .map(|k| match k {
                // A closed end throws the flow back; at the drop it is critical.
                0 => flux((h[0], -q[0]), cell(0)),
                k if k == cells => flux(cell(k - 1), (drop.min(h[k - 1]), q[k - 1])),
                k => flux(cell(k - 1), cell(k)),
            })
            .collect();
        let mut most = 0.0_f64;
        for k in 0..cells {
            let dh = dt * (rain - (faces[k + 1].0 - faces[k].0) / dx);
            h[k] += dh;
            q[k] += dt * (G * h[k] * b.fall - (faces[k + 1].1 - faces[k].1) / dx);
            let r = b.width * h[k] / (b.width + 2.0 * h[k]);
            // Friction by its own end value, so that it never turns the flow.
            q[k] /= 1.0 + dt * G * b.roughness.powi(2) * (q[k] / h[k]).abs() / (r * r.cbrt());
            most = most.max((dh / dt).abs());
        }
        if most < 1e-6 * all {
            return h;
        }
    }
}
