//! How alike two rankings are.

/// How far down a ranking a reader is taken to go on from each rank to the next: the first 50 ranks have 85 % of the weight.
pub const RANK_PERSISTENCE: f64 = 0.98;

/// The rank-biased overlap of two rankings, extrapolated: RBO_EXT of Webber, Moffat and Zobel (2010, "A similarity measure for indefinite
/// rankings"), their equation 32. 1 for equal rankings, 0 for such that share nothing. `p` is between 0 and 1, both excluded: the larger, the more the later
/// ranks weigh.
///
/// Items are small numbers: room is kept for all below the largest. None may come twice in a ranking. Two empty rankings are alike.
///
/// ```
/// use yarrup_core::compare::rank_biased_overlap;
///
/// let same = rank_biased_overlap(&[4, 2], &[4, 2], 0.9);
/// assert!((same - 1.0).abs() < 1e-12);
/// assert_eq!(rank_biased_overlap(&[4], &[2], 0.9), 0.0);
/// ```
pub fn rank_biased_overlap(one: &[u32], other: &[u32], p: f64) -> f64 {
    let (short, long) = if one.len() <= other.len() { (one, other) } else { (other, one) };
    let (s, l) = (short.len(), long.len());
    if l == 0 {
        return 1.0;
    }
    if s == 0 {
        return 0.0;
    }
    // By item: whether the short one has had it, and whether the long one has.
    let most = one.iter().chain(other).max().map_or(0, |most| *most as usize + 1);
    let mut seen = vec![(false, false); most];
    let (mut overlap, mut weight) = (0u64, 1.0);
    let (mut agreed, mut beyond) = (0.0, 0.0);
    let mut at_short = 0u64;
    for depth in 1..=l {
        weight *= p;
        if let Some(item) = short.get(depth - 1) {
            let seen = &mut seen[*item as usize];
            seen.0 = true;
            overlap += u64::from(seen.1);
        }
        let seen = &mut seen[long[depth - 1] as usize];
        seen.1 = true;
        overlap += u64::from(seen.0);
        // Both have the same item at this depth: it was counted once, by the long one.
        agreed += overlap as f64 / depth as f64 * weight;
        if depth == s {
            at_short = overlap;
        }
        if depth > s {
            beyond += at_short as f64 * (depth - s) as f64 / (s as f64 * depth as f64) * weight;
        }
    }
    let tail = ((overlap - at_short) as f64 / l as f64 + at_short as f64 / s as f64) * weight;
    (1.0 - p) / p * (agreed + beyond) + tail
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// What share of the weight the first `depth` ranks have at this `p`: equation 21 of the same paper.
    fn weight_of_first(depth: usize, p: f64) -> f64 {
        let sum: f64 = (1..depth).map(|rank| p.powi(rank as i32) / rank as f64).sum();
        1.0 - p.powi(depth as i32 - 1) + (1.0 - p) / p * depth as f64 * ((1.0 / (1.0 - p)).ln() - sum)
    }

    /// At p = 0.9 the first 10 ranks have 86 % of the weight, as the paper has it.
    #[test]
    fn weights_are_those_of_the_paper() {
        assert!((weight_of_first(10, 0.9) - 0.8556).abs() < 1e-4);
        assert!((weight_of_first(50, RANK_PERSISTENCE) - 0.852).abs() < 0.001);
    }

    /// Equation 32, written out for five ranks.
    #[test]
    fn the_sum_by_hand() {
        let one = [1, 2, 3, 4, 5];
        let other = [2, 1, 8, 4, 9];
        // Overlaps 0, 2, 2, 3, 3.
        let p: f64 = 0.8;
        let sum =
            2.0 / 2.0 * p.powi(2) + 2.0 / 3.0 * p.powi(3) + 3.0 / 4.0 * p.powi(4) + 3.0 / 5.0 * p.powi(5);
        let expected = (1.0 - p) / p * sum + 3.0 / 5.0 * p.powi(5);
        assert!((rank_biased_overlap(&one, &other, p) - expected).abs() < 1e-12);
    }

    proptest! {
        #[test]
        fn it_is_a_similarity(
            one in prop::collection::hash_set(0u32..40, 0..20),
            other in prop::collection::hash_set(0u32..40, 0..20),
            p in 0.05f64..0.99,
        ) {
            let (one, other): (Vec<u32>, Vec<u32>) = (one.into_iter().collect(), other.into_iter().collect());
            let forth = rank_biased_overlap(&one, &other, p);
            prop_assert!((-1e-9..=1.0 + 1e-9).contains(&forth), "{forth}");
            prop_assert!((forth - rank_biased_overlap(&other, &one, p)).abs() < 1e-9);
            prop_assert!((rank_biased_overlap(&one, &one, p) - 1.0).abs() < 1e-9);
            // A ranking that begins as another does agrees with it as far as it goes.
            if let Some(half) = one.get(..one.len() / 2).filter(|half| !half.is_empty()) {
                prop_assert!((rank_biased_overlap(&one, half, p) - 1.0).abs() < 1e-9);
            }
        }
    }
}
