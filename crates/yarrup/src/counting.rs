//! Counting terms in the documents of a run, document by document.

use std::collections::{BTreeMap, BTreeSet};

use yarrup_core::recipe::nearest;
use yarrup_core::study::{Columns, GroupBy, PairTally, Tally, TermTable, Together};
use yarrup_core::{Condition, Fields, Outputs, Pipeline};
use yarrup_io::{Holding, Numbered, Pass, Policy, Reading, Record, RunDocuments, Source};

use yarrup_report::visible;

use crate::failure::Failure;
use crate::reading::{read_all, threads};
use crate::screen::Screen;
use crate::studied::{Again, Studied};

/// How documents are grouped while terms are counted.
#[derive(Clone, Debug)]
pub(crate) enum Grouping {
    /// Not at all.
    Together,
    /// By a field.
    By(GroupBy),
    /// Those for which this holds against the others.
    Key(Condition),
}

/// The name of the group of documents for which a condition holds.
pub(crate) const HERE: &str = "here";
/// The name of the group of all others.
pub(crate) const ELSEWHERE: &str = "elsewhere";

impl Studied {
    /// Counts the terms of all documents.
    pub(crate) fn tally(&self, grouping: Grouping, screen: &Screen) -> Result<TermTable, Failure> {
        let grouping = match grouping {
            Grouping::By(by) => Grouping::By(self.suited(by, screen)?),
            other => other,
        };
        let counting = Counting { run: self, grouping: &grouping };
        let table = CountingState::sum(self.try_pass(&counting, screen)?, Tally::absorb).finish();
        if let Grouping::Key(condition) = &grouping
            && let Some(field) = condition.unseen_fields().next()
        {
            return Err(self.no_field(field, screen));
        }
        if let Grouping::By(by) = &grouping {
            self.has_groups(by, &table, screen)?;
        }
        Ok(table)
    }

    /// How documents are grouped by a field, where that depends on its values.
    pub(crate) fn suited(&self, by: GroupBy, screen: &Screen) -> Result<GroupBy, Failure> {
        if !by.is_open() {
            return Ok(by);
        }
        let values = self.values(by.path(), screen)?;
        Ok(by.suited_to(&values.keys().flatten().map(String::as_str)))
    }

    /// Refuses a field that no document has.
    pub(crate) fn has_groups(&self, by: &GroupBy, table: &TermTable, screen: &Screen) -> Result<(), Failure> {
        let without = by.group(None).to_string();
        if table.groups().iter().all(|group| group.name == without) && table.documents() > 0 {
            return Err(self.no_field(by.path(), screen));
        }
        Ok(())
    }

    /// Asks all documents whether the conditions hold, so that these know which fields there are.
    pub(crate) fn ask(&self, conditions: &[Condition], screen: &Screen) -> Result<(), Failure> {
        let (_, mut source) = self.documents(conditions, Holding::default())?;
        let policy = Policy::strict(threads(None));
        read_all(&mut source, policy, &Has(None), screen).map(|_| ())
    }

    /// Whether some document has a field.
    pub(crate) fn has_field(&self, path: &str, screen: &Screen) -> Result<bool, Failure> {
        Ok(self.pass(&Has(Some(path)), screen)?.into_iter().any(|has| has))
    }

    /// What is told of a field that no document has.
    pub(crate) fn no_field(&self, field: &str, screen: &Screen) -> Failure {
        let path = self.path.display();
        let hint = match self.field_like(field, screen) {
            Some(meant) => format!("did you mean `{}`?", visible(&meant)),
            None => format!("`yarrup look {path}` lists the fields that there are"),
        };
        Failure::Sentence(format!("{path}: no document of the run has a field `{field}`; {hint}"))
    }

    /// The field of the documents whose name is near another.
    pub(crate) fn field_like(&self, field: &str, screen: &Screen) -> Option<String> {
        let known: BTreeSet<String> = self.pass(&FieldNames, screen).ok()?.into_iter().flatten().collect();
        nearest(field, known.iter().map(String::as_str)).map(str::to_owned)
    }

    /// Every value of a field, with its documents.
    pub(crate) fn values(
        &self,
        path: &str,
        screen: &Screen,
    ) -> Result<BTreeMap<Option<String>, u64>, Failure> {
        let mut sum: BTreeMap<Option<String>, u64> = BTreeMap::new();
        for state in self.pass(&Values(path), screen)? {
            for (value, documents) in state {
                *sum.entry(value).or_default() += documents;
            }
        }
        Ok(sum)
    }

    /// Counts which of these terms stand together.
    pub(crate) fn pairs(
        &self,
        columns: &Columns,
        together: Together,
        screen: &Screen,
    ) -> Result<PairTally, Failure> {
        let states = self.try_pass(&PairCounting { run: self, columns, together }, screen)?;
        Ok(CountingState::sum(states, PairTally::absorb))
    }

    /// Takes all documents through a pass that may fail.
    pub(crate) fn try_pass<P: RunPass>(&self, pass: &P, screen: &Screen) -> Result<Vec<P::State>, Failure> {
        Ok(self.try_reading(self.documents(&[], Holding::default())?, pass, screen)?.states)
    }

    /// Takes documents that were opened through a pass that may fail.
    pub(crate) fn try_reading<P: RunPass>(
        &self,
        opened: (RunDocuments, Source),
        pass: &P,
        screen: &Screen,
    ) -> Result<Reading<P::State>, Failure> {
        let Reading { states, summary } = self.reading(opened, &Failing(pass), screen)?;
        let whole = |(state, fault): (P::State, Option<Failure>)| fault.map_or(Ok(state), Err);
        Ok(Reading { states: states.into_iter().map(whole).collect::<Result<_, _>>()?, summary })
    }

    /// Takes all documents through a pass that leaves nothing behind.
    pub(crate) fn pass<P: Pass<Left = ()>>(
        &self,
        pass: &P,
        screen: &Screen,
    ) -> Result<Vec<P::State>, Failure> {
        let (documents, source) = self.documents(&[], Holding::default())?;
        Ok(self.reading((documents, source), pass, screen)?.states)
    }

    /// Takes documents that were opened through a pass that leaves nothing behind.
    pub(crate) fn reading<P: Pass<Left = ()>>(
        &self,
        (documents, mut source): (RunDocuments, Source),
        pass: &P,
        screen: &Screen,
    ) -> Result<Reading<P::State>, Failure> {
        let policy = Policy::strict(threads(None));
        let reading = read_all(&mut source, policy, pass, screen)?;
        documents.confirm(&source)?;
        Ok(reading)
    }
}

/// A pass over the documents of a run that fails where one of them is not as the run left it.
pub(crate) trait RunPass: Sync {
    /// What one worker keeps.
    type State: Send;

    /// What a worker begins with.
    fn state(&self) -> Self::State;

    /// Looks at a document.
    fn document(&self, state: &mut Self::State, document: &Numbered<'_>) -> Result<(), Failure>;
}

/// A pass that may fail, as one that keeps its first failure and looks at nothing after it.
struct Failing<'p, P>(&'p P);

impl<P: RunPass> Pass for Failing<'_, P> {
    type State = (P::State, Option<Failure>);
    type Left = ();

    fn state(&self) -> Self::State {
        (self.0.state(), None)
    }

    fn document(&self, (state, fault): &mut Self::State, document: &Numbered<'_>, (): &mut ()) {
        if fault.is_none() {
            *fault = self.0.document(state, document).err();
        }
    }
}

/// Looks whether some document has a field, if one is asked for.
struct Has<'a>(Option<&'a str>);

impl Pass for Has<'_> {
    type State = bool;
    type Left = ();

    fn state(&self) -> bool {
        false
    }

    fn document(&self, has: &mut bool, document: &Numbered<'_>, (): &mut ()) {
        *has = *has || self.0.is_some_and(|path| document.record.field(path).is_some());
    }
}

/// The names of the fields that documents have.
struct FieldNames;

impl Pass for FieldNames {
    type State = BTreeSet<String>;
    type Left = ();

    fn state(&self) -> BTreeSet<String> {
        BTreeSet::new()
    }

    fn document(&self, known: &mut BTreeSet<String>, document: &Numbered<'_>, (): &mut ()) {
        document.record.each_value(|path, _| {
            if !known.contains(path) {
                known.insert(path.to_owned());
            }
        });
    }
}

struct Values<'a>(&'a str);

impl Pass for Values<'_> {
    type State = BTreeMap<Option<String>, u64>;
    type Left = ();

    fn state(&self) -> Self::State {
        BTreeMap::new()
    }

    fn document(&self, values: &mut Self::State, document: &Numbered<'_>, (): &mut ()) {
        let value = document.record.field(self.0).map(|value| value.into_owned());
        *values.entry(value).or_default() += 1;
    }
}

struct Counting<'r> {
    run: &'r Studied,
    grouping: &'r Grouping,
}

/// What a worker counts.
struct CountingState<'r, T> {
    tally: T,
    terms: TermsOf<'r>,
}

impl<'r, T: Default> CountingState<'r, T> {
    fn new(run: &'r Studied) -> CountingState<'r, T> {
        CountingState { tally: T::default(), terms: TermsOf::new(run) }
    }

    /// The tallies of all workers added up.
    fn sum(states: Vec<CountingState<'r, T>>, add: impl Fn(&mut T, T)) -> T {
        let mut sum = T::default();
        states.into_iter().for_each(|state| add(&mut sum, state.tally));
        sum
    }
}

impl<'r> RunPass for Counting<'r> {
    type State = CountingState<'r, Tally>;

    fn state(&self) -> CountingState<'r, Tally> {
        CountingState::new(self.run)
    }

    fn document(&self, state: &mut CountingState<'r, Tally>, document: &Numbered<'_>) -> Result<(), Failure> {
        let record = &document.record;
        let group = match self.grouping {
            Grouping::Together => None,
            Grouping::By(by) => Some(by.group(record.field(by.path()).as_deref()).to_string()),
            Grouping::Key(condition) => {
                let holds = condition.holds(&mut |path| record.field(path));
                Some(if holds { HERE } else { ELSEWHERE }.to_owned())
            }
        };
        let tally = &mut state.tally;
        state.terms.each(record, |terms| tally.document(terms, group.as_deref()))
    }
}

/// What gives the terms of a document: its cleaned text, or where that does not tell them, the recipe.
pub(crate) struct TermsOf<'r> {
    run: &'r Studied,
    again: Again<'r>,
}

impl<'r> TermsOf<'r> {
    pub(crate) fn new(run: &'r Studied) -> TermsOf<'r> {
        let outputs = Outputs { tokens: true, ..Outputs::default() };
        TermsOf { run, again: Again::new(run, outputs) }
    }

    fn pipeline(&self) -> &'r Pipeline {
        &self.run.compiled.pipeline
    }

    /// Gives the terms of a document, in order.
    pub(crate) fn each(
        &mut self,
        record: &Record<'_>,
        take: impl FnOnce(&mut dyn Iterator<Item = &str>),
    ) -> Result<(), Failure> {
        let clean = record.field("clean").unwrap_or_default();
        if self.pipeline().clean_tells_terms() {
            let mut terms = Vec::new();
            self.pipeline().terms_of_clean(&clean, &mut terms);
            take(&mut terms.into_iter());
            return Ok(());
        }
        let text = record.field("text").ok_or_else(|| {
            Failure::Sentence(format!(
                "{}: terms with spaces in them can only be counted in the original texts, and the run was written with --without-originals",
                self.run.path.display()
            ))
        })?;
        let cleaned = self.again.document(record, &text)?;
        take(&mut cleaned.tokens().map(|token| token.term));
        Ok(())
    }
}

struct PairCounting<'r> {
    run: &'r Studied,
    columns: &'r Columns,
    together: Together,
}

impl<'r> RunPass for PairCounting<'r> {
    type State = CountingState<'r, PairTally>;

    fn state(&self) -> CountingState<'r, PairTally> {
        CountingState::new(self.run)
    }

    fn document(
        &self,
        state: &mut CountingState<'r, PairTally>,
        document: &Numbered<'_>,
    ) -> Result<(), Failure> {
        let record = &document.record;
        let pipeline = &self.run.compiled.pipeline;
        if self.together == Together::Line && pipeline.clean_tells_terms() {
            let clean = record.field("clean").unwrap_or_default();
            for line in clean.split('\n') {
                let mut terms = Vec::new();
                pipeline.terms_of_clean(line, &mut terms);
                let terms: Vec<Option<u32>> = terms.into_iter().map(|term| self.columns.of(term)).collect();
                state.tally.count(&terms, self.together);
            }
            return Ok(());
        }
        let mut known = Vec::new();
        state.terms.each(record, |terms| known.extend(terms.map(|term| self.columns.of(term))))?;
        state.tally.count(&known, self.together);
        Ok(())
    }
}
