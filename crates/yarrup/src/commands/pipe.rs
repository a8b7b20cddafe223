//! `yarrup pipe`: JSON Lines in, the same objects with `clean` out.

use std::io::Write;

use yarrup_core::{Outputs, Worker, in_order};
use yarrup_io::{Collection, Format, Item, PipeOutput, Source, SourceSpec};
use yarrup_report::{counted, visible};

use crate::arguments::PipeArguments;
use crate::failure::{Exit, Failure};
use crate::learning::refuse_unlearned;
use crate::recipe_file::compile;
use crate::screen::Screen;

pub(crate) fn pipe(arguments: &PipeArguments, screen: &Screen) -> Result<Exit, Failure> {
    let compiled = compile(&arguments.recipe)?;
    refuse_unlearned(&compiled)?;
    if screen.verbose {
        compiled.tell_put_in(screen);
    }
    let mut standard_input = SourceSpec::at("-");
    standard_input.options.format = Format::named("jsonl");
    standard_input.selection.text = arguments.text.clone();
    standard_input.selection.id = arguments.id.clone();
    let mut source = Source::open(&Collection::of(standard_input))?;
    let outputs = Outputs { clean: true, tokens: arguments.tokens };
    let labels = compiled.pipeline.labels().to_vec();
    let output = PipeOutput { tokens: arguments.tokens, labels };
    let mut skipped = 0;
    // Not buffered here: a batch is written whole, and whoever waits at the other end gets it at once.
    let mut out = std::io::stdout();
    in_order(
        usize::from(arguments.threads),
        || Ok::<_, Failure>(source.next_batch()),
        || Worker::new(&compiled.pipeline, outputs),
        |worker, batch| {
            let (mut lines, mut malformed) = (Vec::with_capacity(batch.bytes() as usize * 3 / 2), Vec::new());
            let mut ended = None;
            // What came before a line that ends the run is still written.
            let _ = batch.records(|item| {
                match item {
                    Item::Document(record) => {
                        output.write(&record, &worker.document(&record.text, &record), &mut lines);
                    }
                    Item::Malformed(bad) if arguments.strict => {
                        ended = Some(Failure::Told(format!("{}: {}", bad.place, bad.why)));
                        return Err(());
                    }
                    Item::Malformed(bad) => malformed.push(bad),
                    Item::LeftOut => {}
                }
                Ok(())
            });
            Ok((lines, malformed, ended))
        },
        |(lines, malformed, ended)| {
            out.write_all(&lines)?;
            out.flush()?;
            for bad in malformed {
                skipped += 1;
                screen.warn(&format!("{}: {}; skipped", visible(&bad.place), visible(&bad.why.to_string())));
            }
            ended.map_or(Ok(()), Err)
        },
    )?;
    if skipped > 0 {
        screen.warn(&format!("{} skipped", counted(skipped, "malformed line")));
    }
    Ok(Exit::Done)
}
