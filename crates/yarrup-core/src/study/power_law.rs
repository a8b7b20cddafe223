//! Power laws: straight lines through points of which both coordinates are logarithms.

/// A straight line through points of which both coordinates are logarithms: y = factor · x^power, by least squares.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct PowerLaw {
    /// The factor.
    pub factor: f64,
    /// The power: the slope of the line.
    pub power: f64,
}

impl PowerLaw {
    /// The line through points above 0, each with a weight; none through fewer than two.
    pub fn fitted(points: impl Iterator<Item = (f64, f64, f64)>) -> Option<PowerLaw> {
        let (mut sum, mut x_sum, mut y_sum, mut xx, mut xy) = (0.0, 0.0, 0.0, 0.0, 0.0);
        for (x, y, weight) in points.filter(|(x, y, _)| *x > 0.0 && *y > 0.0) {
            let (x, y) = (x.ln(), y.ln());
            sum += weight;
            x_sum += weight * x;
            y_sum += weight * y;
            xx += weight * x * x;
            xy += weight * x * y;
        }
        let spread = sum * xx - x_sum * x_sum;
        if spread.abs() < 1e-9 * (sum * xx).abs().max(1e-9) {
            return None;
        }
        let power = (sum * xy - x_sum * y_sum) / spread;
        Some(PowerLaw { factor: ((y_sum - power * x_sum) / sum).exp(), power })
    }

    /// y at this x.
    pub fn at(&self, x: f64) -> f64 {
        self.factor * x.powf(self.power)
    }
}

/// A power law with the range of x to which it was fitted.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct FittedLaw {
    /// The law.
    pub law: PowerLaw,
    /// The first and the last x that it was fitted to.
    pub range: (f64, f64),
}

/// How the counts of terms fall with their rank, after Zipf: each stretch of the logarithmic axis weighs alike. `points` are ranks with counts, the first rank
/// first.
///
/// The very first ranks and the long tail of rare terms do not lie on the line, and are left out where there are enough others.
pub fn rank_law(points: &[(f64, f64)]) -> Option<FittedLaw> {
    let last = points.iter().rposition(|(_, count)| *count >= 5.0).map_or(points.len(), |last| last + 1);
    let first = if last >= 100 { 10 } else { 1 };
    let range = (first as f64, last as f64);
    let within = points.iter().filter(|(rank, _)| (range.0..=range.1).contains(rank));
    let law = PowerLaw::fitted(within.map(|(rank, count)| (*rank, *count, 1.0 / rank)))?;
    Some(FittedLaw { law, range })
}

/// How the vocabulary grows with the text, after Heaps. `points` are numbers of tokens with the numbers of distinct terms among them.
///
/// The first few tokens say nothing of the law, and are left out where there are enough others.
pub fn growth_law(points: &[(u64, u64)]) -> Option<FittedLaw> {
    let last = points.last()?.0 as f64;
    let first = if last >= 1_000.0 { 100.0 } else { 1.0 };
    let points = points.iter().map(|(tokens, terms)| (*tokens as f64, *terms as f64, 1.0));
    let law = PowerLaw::fitted(points.filter(|(tokens, ..)| *tokens >= first))?;
    Some(FittedLaw { law, range: (first, last) })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_power_law_is_found_again() {
        let points = (1..100).map(|x| (f64::from(x), 7.0 * f64::from(x).powf(-1.1), 1.0));
        let law = PowerLaw::fitted(points).expect("a line");
        assert!((law.power + 1.1).abs() < 1e-9 && (law.factor - 7.0).abs() < 1e-9);
        assert!(PowerLaw::fitted([(1.0, 2.0, 1.0)].into_iter()).is_none());
        assert!((law.at(1.0) - 7.0).abs() < 1e-9);
    }

    #[test]
    fn laws_of_ranks_and_of_growth_leave_out_what_does_not_lie_on_them() {
        let points: Vec<(f64, f64)> =
            (1..=2_000u32).map(|rank| (f64::from(rank), f64::from(1_000_000 / rank / 200))).collect();
        let fitted = rank_law(&points).expect("a line");
        assert!((fitted.law.power + 1.0).abs() < 0.02, "{fitted:?}");
        assert_eq!(fitted.range, (10.0, 1_000.0));
        let points: Vec<(u64, u64)> = (1..400u64).map(|step| (step * step * 25, step * 30)).collect();
        let fitted = growth_law(&points).expect("a line");
        assert!((fitted.law.power - 0.5).abs() < 1e-9, "{fitted:?}");
        assert_eq!(fitted.range.0, 100.0);
        assert!(rank_law(&[]).is_none() && growth_law(&[]).is_none());
    }
}
