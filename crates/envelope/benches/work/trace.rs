//! How long tracing takes: 30 candidates, 500 hours of record, 12 sightings, and one spot or six.

use divan::{Bencher, black_box};
use envelope::trace::form::{CandidateKind, RainHour, SeenAs, Shows, Sighting, Spot, TraceCandidate, TraceInput, Wetness};
use envelope::trace::trace;

fn house(spots: usize, candidates: usize) -> TraceInput {
    let at = |h: usize| format!("2026-10-{:02}T{:02}:00", 1 + h / 24, h % 24);
    let spot = |k: usize| Spot { id: format!("s{k}"), x_m: 4.0 + k as f64, y_m: 2.0, z_m: 2.5, faces_deg: None, shows: Shows::Ceiling };
    let candidate = |k: usize| {
        let kind = CandidateKind::ALL[k % 10];
        let on_roof = k % 10 < 2;
        TraceCandidate {
            id: format!("c{k}"),
            kind,
            x_m: 3.5 + 0.1 * k as f64,
            y_m: 2.6,
            z_m: 3.4,
            downslope_deg: on_roof.then_some(200.0),
            faces_deg: (!on_roof).then_some(200.0),
            state: [SeenAs::Open, SeenAs::Doubtful, SeenAs::Unseen, SeenAs::Sound][k % 4],
            from_mm_h: Some(40.0),
            from_mm: Some(12.0),
            hours: Some([5.0, 6.0]),
            label: None,
            repair_minutes: None,
        }
    };
    TraceInput {
        visit: at(620),
        front_deg: 200.0,
        spots: (0..spots).map(spot).collect(),
        candidates: (0..candidates).map(candidate).collect(),
        rain: (0..500)
            .map(|h| RainHour {
                t: at(h),
                mm: if h % 17 < 5 { 1.5 } else { 0.0 },
                wind_m_s: 4.0 + (h % 7) as f64,
                wind_from_deg: (h * 13 % 360) as f64,
            })
            .collect(),
        holes: vec![],
        seen: (0..spots)
            .flat_map(|k| (0..12).map(move |n| (k, n)))
            .map(|(k, n)| Sighting {
                spot: format!("s{k}"),
                t: at(20 + n * 40),
                state: if n % 3 == 0 { Wetness::Wet } else { Wetness::Dry },
            })
            .collect(),
        tests: vec![],
        units: envelope::measure::Units::Metric,
    }
}

#[divan::bench(args = [1, 6])]
fn thirty_candidates(b: Bencher<'_, '_>, spots: usize) {
    let i = house(spots, 30);
    b.bench(|| trace(black_box(&i)).unwrap());
}

#[divan::bench]
fn two_hundred_candidates(b: Bencher<'_, '_>) {
    let i = house(1, 200);
    b.bench(|| trace(black_box(&i)).unwrap());
}
