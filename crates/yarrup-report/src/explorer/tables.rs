//! The tables of terms and forms on the page: which rows are shown, and what opens from each.

use serde::Serialize;
use yarrup_core::step::Term;
use yarrup_core::study::{GroupCounts, TermTable};
use yarrup_core::{Account, FormFate, Kind, StepRanks, Tag};

use super::Explored;
use super::documents::{DocumentValue, Forms, ShownDocument};

/// How many documents a row opens at most.
const DOCUMENTS_OF_ROW: usize = 12;
/// Stands where a row of the account is not shown, or a text is no term.
const NONE: u32 = u32::MAX;

/// Which terms and forms are shown. The table of terms has a row for each term that is shown, then one for each form that did not become a term.
pub(super) struct Shown {
    /// The terms, by their places in the vocabulary.
    terms: Vec<u32>,
    /// The forms, by their rows of the account: those that became a term in the order of the terms, then all others.
    forms: Vec<u32>,
    /// How many forms became each term.
    form_rows: Vec<u32>,
    /// By row of the account: the number of the form.
    form_of: Vec<u32>,
    /// By form: its row of the table.
    row_of: Vec<u32>,
    /// By row of the table: the documents that are shown and hold it.
    documents: Vec<Vec<u32>>,
    /// Terms, and other forms, that there are in all.
    pub(super) of_terms: usize,
    pub(super) of_others: usize,
}

impl Shown {
    pub(super) fn of(explored: &Explored<'_>) -> Shown {
        let (account, vocabulary) = (explored.account, explored.vocabulary);
        let ends = &account.ends;
        let mut place_of = vec![NONE; account.texts.len()];
        for (place, term) in (0..).zip(vocabulary) {
            place_of[term.number as usize] = place;
        }
        let is_kept = |row: usize| account.is_kept(row);
        let place = |row: usize| place_of[ends.what[row] as usize];
        let by_count = |rows: &mut Vec<u32>| {
            rows.sort_by_key(|row| std::cmp::Reverse(ends.count[*row as usize]));
        };
        let all = 0..account.form_count();
        let of_others = all.clone().filter(|row| !is_kept(*row)).count();
        let mut is_shown = vec![false; vocabulary.len()];
        let mut others: Vec<u32>;
        if let Some(documents) = explored.documents {
            let mut stands = vec![false; all.len()];
            let tokens = documents.iter().flat_map(|document| document.tokens.iter().chain(&document.made));
            tokens.for_each(|token| stands[token.row as usize] = true);
            for row in all.clone().filter(|row| stands[*row] && is_kept(*row)) {
                is_shown[place(row) as usize] = true;
            }
            others = all.clone().filter(|row| stands[*row] && !is_kept(*row)).map(|row| row as u32).collect();
            by_count(&mut others);
        } else {
            is_shown.iter_mut().take(explored.most_rows).for_each(|shown| *shown = true);
            others = all.clone().filter(|row| !is_kept(*row)).map(|row| row as u32).collect();
            by_count(&mut others);
            others.truncate(explored.most_rows);
        }
        let terms: Vec<u32> =
            (0..vocabulary.len() as u32).filter(|place| is_shown[*place as usize]).collect();
        let mut forms: Vec<u32> =
            all.filter(|row| is_kept(*row) && is_shown[place(*row) as usize]).map(|row| row as u32).collect();
        forms.sort_by_key(|row| (place(*row as usize), std::cmp::Reverse(ends.count[*row as usize])));
        let of_term = forms.chunk_by(|one, other| place(*one as usize) == place(*other as usize));
        let form_rows: Vec<u32> = of_term.map(|rows| rows.len() as u32).collect();
        let kept = (0..).zip(&form_rows).flat_map(|(row, count)| std::iter::repeat_n(row, *count as usize));
        let row_of = kept.chain(terms.len() as u32..(terms.len() + others.len()) as u32).collect();
        forms.extend(others);
        let mut form_of = vec![NONE; account.form_count()];
        (0..).zip(&forms).for_each(|(form, row)| form_of[*row as usize] = form);
        let mut shown = Shown {
            of_terms: vocabulary.len(),
            of_others,
            documents: Vec::new(),
            terms,
            forms,
            form_rows,
            form_of,
            row_of,
        };
        shown.documents = shown.documents_of_rows(explored.documents.unwrap_or_default());
        shown
    }

    /// How many rows the table of terms has.
    fn rows(&self) -> usize {
        self.terms.len() + self.others().len()
    }

    /// The forms that did not become a term, by their rows of the account.
    fn others(&self) -> &[u32] {
        &self.forms[self.form_rows.iter().sum::<u32>() as usize..]
    }

    /// How many terms are shown.
    pub(super) fn term_count(&self) -> usize {
        self.terms.len()
    }

    /// How many forms are shown that did not become a term.
    pub(super) fn other_count(&self) -> usize {
        self.others().len()
    }

    /// The row of the table for the term at this place of the vocabulary.
    pub(super) fn row_of_term(&self, place: u32) -> Option<u32> {
        self.terms.binary_search(&place).ok().map(|row| row as u32)
    }

    fn documents_of_rows(&self, documents: &[ShownDocument]) -> Vec<Vec<u32>> {
        let mut of_rows: Vec<Vec<u32>> = vec![Vec::new(); self.rows()];
        for (number, document) in (0..).zip(documents) {
            for token in document.tokens.iter().chain(&document.made) {
                let row = self.row_of[self.form_of[token.row as usize] as usize];
                let known = &mut of_rows[row as usize];
                if known.last() != Some(&number) {
                    known.push(number);
                }
            }
        }
        of_rows
    }

    pub(super) fn documents<'a>(&self, explored: &Explored<'a>) -> Vec<DocumentValue<'a>> {
        let documents = explored.documents.unwrap_or_default();
        let length = |row: &u32| {
            let form = explored.account.form_text(*row as usize);
            if form.is_ascii() { form.len() as u32 } else { form.encode_utf16().count() as u32 }
        };
        let forms = FormsShown {
            account: explored.account,
            form_of: &self.form_of,
            lengths: self.forms.iter().map(length).collect(),
        };
        documents.iter().map(|document| DocumentValue::of(document, &forms)).collect()
    }

    fn shown_terms<'a>(&self, explored: &Explored<'a>) -> impl Iterator<Item = &'a Term<'a>> {
        self.terms.iter().map(|place| &explored.vocabulary[*place as usize])
    }

    pub(super) fn terms<'a>(&self, explored: &Explored<'a>) -> TermColumns<'a> {
        let mut labels = vec![0u32; self.terms.len()];
        for (bit, label) in explored.account.labels.iter().enumerate() {
            let labelled: std::collections::HashSet<&str> =
                explored.account.terms_with_label(label).into_iter().map(|(term, _)| term).collect();
            for (labels, term) in labels.iter_mut().zip(self.shown_terms(explored)) {
                *labels |= u32::from(labelled.contains(term.text)) << bit;
            }
        }
        let of = |value: fn(&Term<'_>) -> u64| self.shown_terms(explored).map(value).collect();
        TermColumns {
            rank: self.terms.iter().map(|place| place + 1).collect(),
            text: self.shown_terms(explored).map(|term| term.text).collect(),
            count: of(|term| term.count),
            documents: of(|term| term.documents),
            kind: self.shown_terms(explored).map(|term| kind_number(term.text)).collect(),
            tag: self.shown_terms(explored).map(|term| tag_number(term.tag)).collect(),
            labels: if explored.account.labels.is_empty() { Vec::new() } else { labels },
            forms: self.form_rows.clone(),
        }
    }

    pub(super) fn forms<'a>(&self, explored: &Explored<'a>) -> FormColumns<'a> {
        let account = explored.account;
        let mut columns = FormColumns::default();
        for row in &self.forms {
            let form = account.form(*row as usize);
            columns.text.push(form.text);
            columns.count.push(form.count);
            columns.documents.push(form.documents);
            columns.tag.push(tag_number(form.tag));
            let (fate, step, reason, into) = match form.fate {
                FormFate::Kept { .. } => continue,
                FormFate::Dropped { step, reason } => ("dropped", step, account.reason(step, reason), None),
                FormFate::Joined { step, into } => ("joined", step, "", into),
            };
            let others = &mut columns.others;
            others.kind.push(kind_number(form.text));
            others.fate.push(fate);
            others.step.push(step as u32);
            others.reason.push(reason);
            others.into.push(into);
        }
        columns
    }

    pub(super) fn details<'a>(&self, explored: &Explored<'a>) -> RowDetails<'a> {
        let account = explored.account;
        let terms = self.shown_terms(explored).map(|term| term.number);
        let others = self.others().iter().map(|row| account.ends.form[*row as usize]);
        let numbers: Vec<u32> = terms.chain(others).collect();
        let ranks = |of_step: &StepRanks| RankColumn {
            step: of_step.step,
            ranks: numbers
                .iter()
                .map(|text| of_step.ranks.get(*text as usize).copied().unwrap_or(0))
                .collect(),
        };
        let some = |documents: &Vec<u32>| {
            let count = documents.len().min(DOCUMENTS_OF_ROW);
            (0..count).map(|number| documents[number * documents.len() / count]).collect()
        };
        let groups = |table: &TermTable| {
            let of_term = |term: &Term<'_>| {
                let counts = (0..).zip(table.in_groups(term.text));
                counts
                    .filter(|(_, counts)| counts.0 > 0)
                    .map(|(group, (tokens, _))| (group, tokens))
                    .collect()
            };
            self.shown_terms(explored).map(of_term).collect()
        };
        RowDetails {
            ranks: account.step_ranks().iter().map(ranks).collect(),
            on_page: self.documents.iter().map(|documents| documents.len() as u32).collect(),
            documents: self.documents.iter().map(some).collect(),
            groups: explored.groups.map(|(_, table)| groups(table)).unwrap_or_default(),
            changes: self.changes(account),
        }
    }

    /// The steps that changed the spelling of each form.
    fn changes<'a>(&self, account: &'a Account) -> Vec<Vec<(usize, &'a str)>> {
        self.forms.iter().map(|row| account.way_of(*row as usize)).collect()
    }
}

/// The forms of tokens as documents ask for them.
struct FormsShown<'s> {
    account: &'s Account,
    form_of: &'s [u32],
    /// By number.
    lengths: Vec<u32>,
}

impl Forms for FormsShown<'_> {
    fn number(&self, row: u32) -> u32 {
        self.form_of[row as usize]
    }

    fn length(&self, row: u32) -> u32 {
        self.lengths[self.number(row) as usize]
    }

    fn term(&self, row: u32) -> Option<&str> {
        self.account.term_of(row as usize)
    }
}

/// The terms that are shown, column by column.
#[derive(Debug, Serialize)]
pub(super) struct TermColumns<'a> {
    rank: Vec<u32>,
    pub(super) text: Vec<&'a str>,
    count: Vec<u64>,
    documents: Vec<u64>,
    /// By the list of kinds.
    kind: Vec<u8>,
    /// By the list of tags; 0 for none.
    tag: Vec<u8>,
    /// A bit for each label; empty where no step gives labels.
    labels: Vec<u32>,
    /// How many of the forms became it.
    forms: Vec<u32>,
}

/// The forms that are shown, column by column: those that became a term in the order of the terms, then all others.
#[derive(Debug, Default, Serialize)]
pub(super) struct FormColumns<'a> {
    text: Vec<&'a str>,
    count: Vec<u64>,
    documents: Vec<u64>,
    tag: Vec<u8>,
    others: OtherColumns<'a>,
}

/// What became of the forms that did not become a term.
#[derive(Debug, Default, Serialize)]
struct OtherColumns<'a> {
    kind: Vec<u8>,
    fate: Vec<&'static str>,
    step: Vec<u32>,
    reason: Vec<&'a str>,
    into: Vec<Option<&'a str>>,
}

/// What opens from the rows of the table of terms.
#[derive(Debug, Serialize)]
pub(super) struct RowDetails<'a> {
    /// Behind the split, and each step that changed or dropped something: the rank of each row's word; 0 where there is none.
    pub(super) ranks: Vec<RankColumn>,
    /// How many of the documents that are shown hold it.
    pub(super) on_page: Vec<u32>,
    /// Some of these documents.
    pub(super) documents: Vec<Vec<u32>>,
    /// Of each term: its groups, each with its tokens there.
    pub(super) groups: Vec<Vec<(u32, u64)>>,
    /// Of each form: the steps that changed its spelling, each with what it made of it.
    pub(super) changes: Vec<Vec<(usize, &'a str)>>,
}

#[derive(Debug, Serialize)]
pub(super) struct RankColumn {
    pub(super) step: usize,
    pub(super) ranks: Vec<u32>,
}

/// How many terms are named that mark a group.
const KEY_TERMS: usize = 10;
/// Terms with fewer tokens mark no group.
const LEAST_KEY: u64 = 3;

/// The values of a field, and what was counted in their documents.
#[derive(Debug, Serialize)]
pub(super) struct GroupValues<'a> {
    field: &'a str,
    groups: Vec<GroupValue<'a>>,
}

#[derive(Debug, Serialize)]
struct GroupValue<'a> {
    name: &'a str,
    documents: u64,
    tokens: u64,
    terms: u64,
    key_terms: Vec<KeyTermValue<'a>>,
}

#[derive(Debug, Serialize)]
struct KeyTermValue<'a> {
    term: &'a str,
    tokens: u64,
    elsewhere: u64,
    g2: f64,
}

impl<'a> GroupValues<'a> {
    pub(super) fn of(field: &'a str, table: &'a TermTable) -> GroupValues<'a> {
        let key_terms = |number: usize| {
            let value = |key: &yarrup_core::study::KeyTerm<'a>| KeyTermValue {
                term: key.term,
                tokens: key.count,
                elsewhere: key.elsewhere,
                // What is shown has one decimal.
                g2: (key.keyness.g2 * 10.0).round() / 10.0,
            };
            table.key_terms(number, LEAST_KEY).iter().take(KEY_TERMS).map(value).collect()
        };
        let group = |(number, group): (usize, &'a GroupCounts)| GroupValue {
            name: &group.name,
            documents: group.documents,
            tokens: group.tokens,
            terms: group.terms,
            key_terms: key_terms(number),
        };
        GroupValues { field, groups: table.groups().iter().enumerate().map(group).collect() }
    }
}

fn kind_number(text: &str) -> u8 {
    let kind = Kind::of(text);
    Kind::ALL.iter().position(|known| *known == kind).unwrap_or(0) as u8
}

fn tag_number(tag: Option<Tag>) -> u8 {
    tag.map_or(0, |tag| tag as u8)
}
