//! In which order the pieces of a detail go on, and which was put on too early.

use super::detail::Detail;

/// Inner before outer; of those that may go on, the lowest first, then the leftmost, then by name. What is left is woven.
pub(super) fn order(d: &Detail) -> (Vec<String>, Vec<String>) {
    let n = d.pieces.len();
    let mut under: Vec<usize> = vec![0; n];
    let mut over: Vec<Vec<usize>> = vec![vec![]; n];
    for (a, b) in d.pairs() {
        let (outer, inner) = if d.outside(a, b) { (a, b) } else { (b, a) };
        under[outer] += 1;
        over[inner].push(outer);
    }
    let before = |a: &usize, b: &usize| {
        let (p, q) = (&d.pieces[*a], &d.pieces[*b]);
        p.z0.total_cmp(&q.z0).then(p.x0.total_cmp(&q.x0)).then_with(|| p.id.cmp(&q.id))
    };
    let mut by_place: Vec<usize> = (0..n).collect();
    by_place.sort_by(before);
    let mut rank = vec![0; n];
    by_place.iter().enumerate().for_each(|(r, i)| rank[*i] = r);
    let mut free: std::collections::BTreeSet<usize> = (0..n).filter(|i| under[*i] == 0).map(|i| rank[i]).collect();
    let mut out = vec![];
    let mut on = vec![false; n];
    while let Some(r) = free.pop_first() {
        let i = by_place[r];
        on[i] = true;
        out.push(d.pieces[i].id.clone());
        for o in &over[i] {
            under[*o] -= 1;
            if under[*o] == 0 {
                free.insert(rank[*o]);
            }
        }
    }
    let woven = by_place.iter().filter(|i| !on[**i]).map(|i| d.pieces[*i].id.clone()).collect();
    (out, woven)
}

/// The first piece that was put on while one it lies over was not on.
pub(super) fn too_early(d: &Detail, installed: &[String]) -> Option<String> {
    let mut on = vec![false; d.pieces.len()];
    for id in installed {
        let i = d.index_of(id)?;
        if (0..d.pieces.len()).any(|j| !on[j] && d.outside(i, j)) {
            return Some(id.clone());
        }
        on[i] = true;
    }
    None
}
