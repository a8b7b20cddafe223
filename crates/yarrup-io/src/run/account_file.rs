//! `account.bin`: the account of a run in one file, which every command reads that studies the run.

use std::io::{self, Write};
use std::path::Path;

use yarrup_core::Account;

use crate::run::error::{RunError, damaged};
use crate::run::packed::Form;
use crate::run::record::{RECORD_FILE, RunRecord, read_file_of, read_run};

/// The name of the file in a run folder.
pub const ACCOUNT_FILE: &str = "account.bin";

/// How the file is told from others.
const FORM: Form =
    Form { magic: b"yarrup account\r\n", version: 3, what: "an account", again: "make the run again" };

/// Writes an account.
///
/// # Errors
///
/// If the writer fails.
pub fn write_account(account: &Account, out: impl Write) -> io::Result<()> {
    FORM.write(account, out)
}

/// Reads the account of a run folder.
///
/// # Errors
///
/// If there is no run at this place, or its account is missing, damaged, cut, or of another version.
pub fn read_account(folder: &Path) -> Result<Account, RunError> {
    account_of(folder, &read_run(folder)?)
}

/// Reads the account of a run of which this is the record.
pub(super) fn account_of(folder: &Path, record: &RunRecord) -> Result<Account, RunError> {
    let path = folder.join(ACCOUNT_FILE);
    let bytes = read_file_of(folder, record, ACCOUNT_FILE)?;
    let account = parsed(&bytes).map_err(|why| damaged(&path, &why))?;
    let (told, counted) = (&record.totals, &account.totals);
    let same = told.documents == counted.documents
        && told.tokens_found == counted.tokens_found
        && told.tokens_kept == counted.tokens_kept
        && told.types_found == account.types_found()
        && told.forms == account.form_count() as u64;
    if !same {
        return Err(damaged(
            &folder.join(RECORD_FILE),
            &"its counts are not those of the account; make the run again",
        ));
    }
    Ok(account)
}

fn parsed(bytes: &[u8]) -> Result<Account, String> {
    let account: Account = FORM.read(bytes)?;
    if !account.is_sound() {
        return Err("the account cannot be read: its tables do not fit together".to_owned());
    }
    Ok(account)
}

#[cfg(test)]
mod tests {
    use super::*;
    use yarrup_core::{NoFields, Outputs, Pipeline, Worker, recipe};

    fn account() -> Account {
        let recipe = "[[step]]\ndo = \"stopwords\"\nadd = [\"the\"]\n[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"lemma\"\n";
        let recipe = recipe::read(recipe).expect("a recipe");
        let pipeline = Pipeline::compile(&recipe, &crate::FolderLists::new("".into())).expect("compiled");
        let mut worker = Worker::new(&pipeline, Outputs::default());
        worker.document("the terns were nesting, the gulls watched", &NoFields);
        worker.into_account()
    }

    #[test]
    fn an_account_is_read_as_it_was_written_or_not_at_all() {
        let account = account();
        let mut bytes = Vec::new();
        write_account(&account, &mut bytes).expect("written");
        assert_eq!(parsed(&bytes), Ok(account));
        for cut in 0..bytes.len() {
            assert!(parsed(&bytes[..cut]).is_err(), "cut at {cut}");
        }
        for at in 0..bytes.len() {
            let mut changed = bytes.clone();
            changed[at] ^= 0x10;
            assert!(parsed(&changed).is_err(), "changed at {at}");
        }
        let mut later = bytes.clone();
        later[FORM.magic.len()] = 9;
        assert!(parsed(&later).expect_err("another layout").contains("layout 9"));
    }

    #[test]
    fn tables_that_do_not_fit_together_are_refused() {
        let mut account = account();
        account.found.push(1_000_000);
        let mut bytes = Vec::new();
        write_account(&account, &mut bytes).expect("written");
        assert!(parsed(&bytes).expect_err("unsound").contains("do not fit together"));
    }
}
