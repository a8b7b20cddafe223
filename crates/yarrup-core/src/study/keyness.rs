//! Which terms mark some documents against the rest.

/// What marks a term: how often it comes here and elsewhere.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Keyness {
    /// Whether the term is relatively more frequent here than elsewhere.
    pub is_commoner: bool,
    /// The log-likelihood ratio G²: see [`log_likelihood`].
    pub g2: f64,
    /// The effect size: see [`log_ratio`].
    pub log_ratio: f64,
    /// The probability of a G² as large as this, if the term were equally likely here and elsewhere: that of chi-square with one degree of freedom.
    pub p: f64,
}

/// How often something comes, among how many.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Frequency {
    /// How often.
    pub count: u64,
    /// Among how many.
    pub of: u64,
}

impl Keyness {
    /// The keyness of a term that comes this often here, and that often elsewhere.
    pub fn of(here: Frequency, elsewhere: Frequency) -> Keyness {
        let g2 = log_likelihood(here, elsewhere);
        let product = |a: u64, b: u64| u128::from(a) * u128::from(b);
        let is_commoner = product(here.count, elsewhere.of) > product(elsewhere.count, here.of);
        Keyness { is_commoner, g2, log_ratio: log_ratio(here, elsewhere), p: chance(g2) }
    }
}

/// The log-likelihood ratio of Dunning (1993, "Accurate Methods for the Statistics of Surprise and Coincidence"), from the table of four: the term and
/// all else, here and elsewhere. G² = 2 Σ O ln (O / E), with O what was observed and E what would be expected if the term were equally likely in both.
///
/// ```
/// use yarrup_core::study::{Frequency, log_likelihood};
///
/// // His table 1: the bigram "the swiss", whose value is 270.72.
/// let (k11, k12, k21, k22) = (110, 2442, 111, 29114);
/// let g2 = log_likelihood(Frequency { count: k11, of: k11 + k12 }, Frequency { count: k21, of: k21 + k22 });
/// assert!((g2 - 270.72).abs() < 0.01);
/// ```
pub fn log_likelihood(here: Frequency, elsewhere: Frequency) -> f64 {
    let (a, b) = (here.count as f64, elsewhere.count as f64);
    let (of_a, of_b) = (here.of as f64, elsewhere.of as f64);
    let all = of_a + of_b;
    let cell = |observed: f64, row: f64, column: f64| {
        if observed > 0.0 { observed * (observed * all / (row * column)).ln() } else { 0.0 }
    };
    let (with, without) = (a + b, all - a - b);
    let sum = cell(a, with, of_a)
        + cell(b, with, of_b)
        + cell(of_a - a, without, of_a)
        + cell(of_b - b, without, of_b);
    (2.0 * sum).max(0.0)
}

/// The binary logarithm of the ratio of the two relative frequencies: 1 for a term that is twice as frequent here, −1 for half as frequent. A count of 0
/// is taken as 0.5, so that the ratio is finite.
pub fn log_ratio(here: Frequency, elsewhere: Frequency) -> f64 {
    let share = |frequency: Frequency| (frequency.count as f64).max(0.5) / frequency.of.max(1) as f64;
    (share(here) / share(elsewhere)).log2()
}

/// The probability of a chi-square of at least this, with one degree of freedom.
fn chance(g2: f64) -> f64 {
    libm::erfc((g2 / 2.0).sqrt())
}

/// Probabilities corrected for their number, by Holm (1979): the smallest times how many there are, the next times one less, and so on, none smaller than
/// the one before. What is below 0.05 then is so by chance in less than one of twenty whole tables.
pub fn holm(probabilities: &[f64]) -> Vec<f64> {
    let mut order: Vec<usize> = (0..probabilities.len()).collect();
    order.sort_by(|a, b| probabilities[*a].total_cmp(&probabilities[*b]));
    let mut corrected = vec![0.0; probabilities.len()];
    let mut least: f64 = 0.0;
    for (place, index) in order.into_iter().enumerate() {
        least = least.max(probabilities[index] * (probabilities.len() - place) as f64).min(1.0);
        corrected[index] = least;
    }
    corrected
}

#[cfg(test)]
mod tests {
    use super::*;

    fn frequency(count: u64, of: u64) -> Frequency {
        Frequency { count, of }
    }

    /// More of Dunning's table 1: k(AB), k(A~B), k(~AB), k(~A~B).
    #[test]
    fn log_likelihood_as_published() {
        for (k11, k12, k21, k22, expected) in [
            (29, 13, 123, 31612, 263.90),
            (31, 23, 139, 31584, 256.84),
            (10, 0, 3, 31764, 167.23),
            (76, 104, 2476, 29121, 157.21),
        ] {
            let g2 = log_likelihood(frequency(k11, k11 + k12), frequency(k21, k21 + k22));
            assert!((g2 - expected).abs() < 0.01, "{g2} {expected}");
        }
    }

    #[test]
    fn equal_shares_mark_nothing() {
        let keyness = Keyness::of(frequency(5, 100), frequency(10, 200));
        assert!(keyness.g2.abs() < 1e-9 && keyness.log_ratio.abs() < 1e-9 && (keyness.p - 1.0).abs() < 1e-4);
        let nowhere = Keyness::of(frequency(0, 0), frequency(0, 0));
        assert!(nowhere.g2 == 0.0 && nowhere.log_ratio.is_finite());
    }

    #[test]
    fn a_count_of_nothing_is_taken_for_half_a_token() {
        assert!((log_ratio(frequency(4, 100), frequency(0, 100)) - 3.0).abs() < 1e-12);
        assert!((log_ratio(frequency(0, 100), frequency(4, 100)) + 3.0).abs() < 1e-12);
    }

    #[test]
    fn probabilities_are_those_of_tables() {
        for (value, expected) in [(3.841, 0.05), (6.635, 0.01), (10.828, 0.001)] {
            assert!((chance(value) / expected - 1.0).abs() < 0.01, "{value}");
        }
        assert_eq!(holm(&[0.01, 0.04, 0.03, 0.005]), [0.03, 0.06, 0.06, 0.02]);
        assert!(holm(&[]).is_empty());
    }
}
