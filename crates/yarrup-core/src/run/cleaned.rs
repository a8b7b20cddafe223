//! A document after the recipe: its cleaned text, and what became of its tokens.

use crate::kind::Kind;
use crate::part_of_speech::Tag;
use crate::run::fate::FormFate;
use crate::run::forms::NONE;
use crate::run::intern::Interner;
use crate::run::ledger::End;
use crate::run::passage::Live;
use crate::span::Span;

/// What is made of each document, beside the account. What is not asked for is not paid for.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Outputs {
    /// The cleaned text.
    pub clean: bool,
    /// The kept tokens with their spans in the original.
    pub tokens: bool,
    /// All tokens with their spans and what became of them, the dropped ones among them.
    pub ends: bool,
}

impl Outputs {
    /// Whether tokens are asked for with their places in the original.
    pub(super) fn has_spans(self) -> bool {
        self.tokens || self.ends
    }
}

/// A document after the recipe.
#[derive(Debug)]
pub struct Cleaned<'w> {
    /// The terms joined by single spaces, or by line breaks between sentences where the recipe keeps them; for a text recipe, the rewritten
    /// text. Empty unless asked for.
    pub clean: &'w str,
    /// How many tokens the text had as found.
    pub tokens_before: u64,
    /// How many tokens were kept.
    pub tokens_after: u64,
    /// Whether a step left the document out, as the index of its name and the number of the reason.
    pub left_out: Option<LeftOut>,
    /// The number of the step that made so much of the text that nothing of it was kept, if one did.
    pub overgrown: Option<usize>,
    pub(super) kept: &'w [Kept],
    pub(super) terms: &'w [u32],
    pub(super) ended: &'w [Ended],
    /// By the index of a token step: its place in the recipe, from 1.
    pub(super) steps: &'w [usize],
    pub(super) spellings: &'w Interner,
}

/// Why a document was left out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct LeftOut {
    /// The step's place in the recipe, from 1.
    pub step: usize,
    /// The number of the reason: see [`Pipeline::reason`](crate::Pipeline::reason).
    pub reason: u16,
}

/// A token that survived the recipe.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Token<'w> {
    /// What became of it.
    pub term: &'w str,
    /// What it is made of, before any token step.
    pub kind: Kind,
    /// Where its words stand in the original text.
    pub span: Span,
    /// The number of its sentence, from 1, where the recipe keeps sentences.
    pub sentence: Option<u32>,
    /// Its part of speech, where the recipe gives one.
    pub tag: Option<Tag>,
    /// The labels that it has, a bit for each: see [`Pipeline::labels`](crate::Pipeline::labels).
    pub labels: u32,
    /// Its lemma, where the recipe gives one.
    pub lemma: Option<&'w str>,
}

/// A token of the split, or one that a step made of others, and what became of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct EndedToken<'w> {
    /// Its spelling at the split, or as the step made it that did.
    pub form: &'w str,
    /// A number by which its worker knows the form.
    pub number: u32,
    /// Its part of speech, where the recipe gives one.
    pub tag: Option<Tag>,
    /// The labels that it has, a bit for each: see [`Pipeline::labels`](crate::Pipeline::labels).
    pub labels: u32,
    /// Its lemma, where the recipe gives one.
    pub lemma: Option<&'w str>,
    /// Where it stands among the tokens of the split, from 1; of a token that is made of others, where the first of them stands.
    pub place: u32,
    /// The number of its sentence, from 1, where the recipe keeps sentences.
    pub sentence: Option<u32>,
    /// Where its words stand in the original text.
    pub span: Span,
    /// What became of it.
    pub fate: FormFate<'w>,
}

impl EndedToken<'_> {
    /// What it is made of.
    pub fn kind(&self) -> Kind {
        Kind::of(self.form)
    }
}

/// A token that went no further, with its place.
#[derive(Clone, Copy, Debug)]
pub(super) struct Ended {
    pub(super) token: Live,
    pub(super) span: Span,
    pub(super) end: End,
    /// 0 where the recipe keeps no sentences.
    pub(super) sentence: u32,
}

/// A kept token with its place.
#[derive(Clone, Copy, Debug)]
pub(super) struct Kept {
    pub(super) token: Live,
    pub(super) span: Span,
    /// 0 where the recipe keeps no sentences.
    pub(super) sentence: u32,
}

impl<'w> Cleaned<'w> {
    /// The kept tokens, in order. None unless asked for.
    pub fn tokens(&self) -> impl Iterator<Item = Token<'w>> + '_ {
        self.kept.iter().map(|kept| Token {
            term: self.spellings.text(kept.token.spelling),
            kind: Kind::of(self.spellings.text(kept.token.origin)),
            span: kept.span,
            sentence: (kept.sentence > 0).then_some(kept.sentence),
            tag: kept.token.mark.tag(),
            labels: kept.token.mark.labels(),
            lemma: (kept.token.lemma != NONE).then(|| self.spellings.text(kept.token.lemma)),
        })
    }

    /// The terms, in order, each with a number by which its worker knows it. None unless the cleaned text is asked for.
    pub fn terms(&self) -> impl Iterator<Item = (u32, &'w str)> + '_ {
        self.terms.iter().map(|number| (*number, self.spellings.text(*number)))
    }

    /// All tokens and what became of them, in the order of the text. None unless asked for.
    ///
    /// ```
    /// use yarrup_core::{FormFate, NoFields, NoFiles, Outputs, Pipeline, Worker, recipe};
    ///
    /// let recipe = recipe::read("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"the\"]\n").expect("no mistakes");
    /// let pipeline = Pipeline::compile(&recipe, &NoFiles).expect("it can run");
    /// let mut worker = Worker::new(&pipeline, Outputs { ends: true, ..Outputs::default() });
    /// let cleaned = worker.document("The tern", &NoFields);
    /// let ends: Vec<_> = cleaned.ends().map(|token| (token.form, token.span.start, token.fate)).collect();
    /// assert_eq!(ends[0], ("the", 0, FormFate::Dropped { step: 3, reason: 0 }));
    /// assert_eq!(ends[1], ("tern", 4, FormFate::Kept { term: "tern" }));
    /// ```
    pub fn ends(&self) -> impl Iterator<Item = EndedToken<'w>> + '_ {
        self.ended.iter().map(|ended| {
            let form = self.spellings.text(ended.token.origin);
            let step = |index: u8| self.steps.get(usize::from(index)).copied().unwrap_or_default();
            EndedToken {
                form,
                number: ended.token.origin,
                tag: ended.token.mark.tag(),
                labels: ended.token.mark.labels(),
                lemma: (ended.token.lemma != NONE).then(|| self.spellings.text(ended.token.lemma)),
                place: ended.token.first + 1,
                sentence: (ended.sentence > 0).then_some(ended.sentence),
                span: ended.span,
                fate: match ended.end {
                    End::Kept { term } => FormFate::Kept { term: self.spellings.text(term) },
                    End::Dropped { step: index, reason } => FormFate::Dropped { step: step(index), reason },
                    End::Joined { step: index, into } => FormFate::Joined {
                        step: step(index),
                        into: (into != NONE).then(|| self.spellings.text(into)),
                    },
                },
            }
        })
    }
}
