//! Water is neither made nor lost, whatever the ground.

use super::*;
use proptest::prelude::*;

proptest! {
    /// However water of many origins comes to a cell, one by one or mixed, it leaves as what came.
    #[test]
    fn running_water_keeps_its_origins(comes in prop::collection::vec((0..4_usize, 0.001..2.0_f64, any::<bool>()), 1..12)) {
        let mut running = Running::new(2, 4);
        let mut kept = [0.0; 4];
        for (origin, m3, mixed) in &comes {
            kept[*origin] += m3;
            if *mixed {
                let mut mix = [0.0; 4];
                mix[*origin] = m3 / 2.0;
                running.add_mix(1, &mix);
                running.add(1, *origin, m3 / 2.0);
            } else {
                running.add(1, *origin, *m3);
            }
        }
        let mut mix = [0.0; 4];
        let (all, whence) = running.take(1, &mut mix);
        prop_assert!((all - kept.iter().sum::<f64>()).abs() < 1e-12);
        let one = comes.iter().all(|c| c.0 == comes[0].0 && !c.2);
        match whence {
            Whence::One(o) => prop_assert!(one && usize::from(o) == comes[0].0),
            Whence::Many => prop_assert!(!one && mix.iter().zip(&kept).all(|(m, k)| (m - k).abs() < 1e-12)),
            Whence::Nowhere => prop_assert!(false, "something came"),
        }
        // Nothing is left behind, and the other cell never had any.
        prop_assert_eq!(running.take(1, &mut mix), (0.0, Whence::Nowhere));
        prop_assert_eq!(running.take(0, &mut mix), (0.0, Whence::Nowhere));
        prop_assert!(running.mixed.iter().all(|m| *m == 0.0));
    }
}
