//! `yarrup pipe --arrow`: a stream of Arrow record batches in, the same rows with what was made of them out.

use std::io::{BufReader, BufWriter, stdin, stdout};

use yarrup_core::step::Document;
use yarrup_core::{LeftOut, Outputs, Worker};
use yarrup_io::{ArrowAdded, ArrowCleaned, ArrowDocuments};

use crate::arguments::PipeArguments;
use crate::failure::{Exit, Failure, option};
use crate::reading::overgrown;
use crate::recipe_file::Compiled;
use crate::screen::Screen;

pub(super) fn pipe_arrow(
    arguments: &PipeArguments,
    compiled: &Compiled,
    screen: &Screen,
) -> Result<Exit, Failure> {
    let text = match arguments.text.as_slice() {
        [] => "text",
        [text] => text,
        _ => return Err(option("text", "with --arrow, one column is the text")),
    };
    let failed = |why: String| Failure::Sentence(format!("standard input: {why}"));
    let pipeline = &compiled.pipeline;
    let mut documents = ArrowDocuments::new(BufReader::new(stdin().lock()), text).map_err(failed)?;
    let mut out = ArrowCleaned::new(BufWriter::new(stdout().lock()), &documents)?;
    let mut worker = Worker::new(pipeline, Outputs { clean: true, ..Outputs::default() });
    let mut order = 0;
    while let Some(rows) = documents.next_rows().map_err(failed)? {
        let mut added = ArrowAdded::default();
        for number in 0..rows.len() {
            let row = rows.row(number);
            let cleaned = worker.take(&Document { text: row.text(), fields: &row, order });
            order += 1;
            if let Some(step) = cleaned.overgrown {
                screen.warn(&format!("row {order}: {}", overgrown(step)));
            }
            let left_out = cleaned
                .left_out
                .map(|LeftOut { step, reason }| format!("step {step}: {}", pipeline.reason(step, reason)));
            let stays = left_out.is_none();
            added.clean.push(stays.then(|| cleaned.clean.to_owned()));
            added.tokens_before.push(stays.then_some(cleaned.tokens_before as i64));
            added.tokens_after.push(stays.then_some(cleaned.tokens_after as i64));
            added.left_out.push(left_out);
        }
        out.write(&rows, added)?;
    }
    out.finish()?;
    Ok(Exit::Done)
}
