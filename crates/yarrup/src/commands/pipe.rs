//! `yarrup pipe`: JSON Lines in, the same objects with `clean` out.

use std::io::Write;
use std::ops::ControlFlow;

use yarrup_core::step::Document;
use yarrup_core::{Outputs, Pipeline, Worker};
use yarrup_io::{
    BatchFacts, Collection, FORMATS, Malformed, Numbered, Pass, PipeOutput, Policy, Sink, Source, SourceSpec,
    Stopped, read,
};
use yarrup_report::{counted, visible};

use crate::arguments::PipeArguments;
use crate::failure::{Exit, Failure};
use crate::learning::refuse_unlearned;
use crate::output::{Output, Shape};
use crate::reading::overgrown;
use crate::recipe_file::compile;
use crate::screen::Screen;

pub(crate) fn pipe(arguments: &PipeArguments, screen: &Screen) -> Result<Exit, Failure> {
    let compiled = compile(&arguments.recipe)?;
    refuse_unlearned(&compiled)?;
    if screen.verbose {
        compiled.tell_put_in(screen);
    }
    let mut standard_input = SourceSpec::at("-");
    standard_input.options.format = FORMATS.named("jsonl");
    standard_input.selection.text = arguments.text.clone();
    standard_input.selection.id = arguments.id.clone();
    let mut source = Source::open(&Collection::of(standard_input))?;
    let outputs = Outputs { clean: true, tokens: arguments.tokens, ends: false };
    let labels = compiled.pipeline.labels().to_vec();
    let output = PipeOutput { tokens: arguments.tokens, labels };
    let policy =
        Policy { strict: arguments.strict, ..Policy::lenient(usize::from(arguments.threads)) };
    let piping = Piping { pipeline: &compiled.pipeline, outputs, output };
    // Not buffered here: a batch is written whole, and whoever waits at the other end gets it at once.
    let mut passing = PassingOn { out: screen.out_as(Shape::Data), screen };
    let reading = read(&mut source, policy, &piping, &mut passing).map_err(|stopped| match stopped {
        Stopped::Malformed(bad) => Failure::Sentence(format!("{}: {}", bad.place, bad.why)),
        Stopped::Sink(failure) => failure,
    })?;
    let skipped = reading.summary.skipped();
    if skipped > 0 && reading.summary.documents == 0 {
        let lines = counted(skipped, "line");
        return Err(Failure::Sentence(format!("standard input: none of {lines} is a document")));
    }
    if skipped > 0 {
        screen.warn(&format!("{} skipped", counted(skipped, "malformed line")));
    }
    Ok(Exit::Done)
}

/// The pass that cleans object by object.
struct Piping<'p> {
    pipeline: &'p Pipeline,
    outputs: Outputs,
    output: PipeOutput,
}

impl<'p> Pass for Piping<'p> {
    type State = Worker<'p>;
    /// The objects, a line each, and what is to be told of some.
    type Left = (Vec<u8>, Vec<String>);

    fn state(&self) -> Worker<'p> {
        Worker::new(self.pipeline, self.outputs)
    }

    fn batch(&self, _worker: &mut Worker<'p>, batch: &BatchFacts, (lines, _): &mut (Vec<u8>, Vec<String>)) {
        lines.reserve(batch.bytes as usize * 3 / 2);
    }

    fn document(
        &self,
        worker: &mut Worker<'p>,
        document: &Numbered<'_>,
        (lines, told): &mut (Vec<u8>, Vec<String>),
    ) {
        let Numbered { record, order, .. } = document;
        let cleaned = worker.take(&Document { text: &record.text, fields: record, order: *order });
        if let Some(step) = cleaned.overgrown {
            told.push(format!("document {}: {}", record.id, overgrown(step)));
        }
        // What the recipe leaves out goes no further.
        if cleaned.left_out.is_none() {
            self.output.write(record, &cleaned, lines);
        }
    }
}

/// Writes the objects to standard output.
struct PassingOn<'s> {
    out: Output,
    screen: &'s Screen,
}

impl Sink<(Vec<u8>, Vec<String>)> for PassingOn<'_> {
    type Error = Failure;

    fn left(&mut self, (lines, told): (Vec<u8>, Vec<String>)) -> Result<ControlFlow<()>, Failure> {
        told.iter().for_each(|told| self.screen.warn(told));
        self.out.write_all(&lines)?;
        self.out.flush()?;
        Ok(ControlFlow::Continue(()))
    }

    fn skipped(&mut self, malformed: &Malformed) -> Result<(), Failure> {
        let (place, why) = (visible(&malformed.place), visible(&malformed.why.to_string()));
        self.screen.warn(&format!("{place}: {why}; skipped"));
        Ok(())
    }
}
