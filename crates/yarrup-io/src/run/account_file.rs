//! `account.bin`: the account of a run in one file, which every command reads that studies the run.
//!
//! The file begins with [`MAGIC`], the version of its layout (4 bytes, the lowest first) and the XXH3 hash (64 bits) of all that follows: the account in
//! Postcard, compressed by Zstandard.

use std::io::{self, BufWriter, Write};
use std::path::Path;

use yarrup_core::Account;

use crate::run::error::{RunError, damaged};
use crate::run::record::{RECORD_FILE, read_file_of, read_run};

/// The name of the file in a run folder.
pub const ACCOUNT_FILE: &str = "account.bin";

const MAGIC: &[u8; 16] = b"yarrup account\r\n";
/// The version of the layout. It grows with every change of what an account holds.
const VERSION: u32 = 3;
/// Magic, version, hash.
const HEADER: usize = MAGIC.len() + 4 + 8;
/// Faster is hardly larger.
const LEVEL: i32 = 1;

/// Writes an account.
///
/// # Errors
///
/// If the writer fails.
pub fn write_account(account: &Account, mut out: impl Write) -> io::Result<()> {
    // Packed as it is written: a copy of all texts would be held beside them else.
    let packing = BufWriter::new(zstd::Encoder::new(Vec::new(), LEVEL)?);
    let packed = postcard::to_io(account, packing).map_err(io::Error::other)?;
    let packed = packed.into_inner().map_err(io::IntoInnerError::into_error)?.finish()?;
    out.write_all(MAGIC)?;
    out.write_all(&VERSION.to_le_bytes())?;
    out.write_all(&crate::short_hash(&packed).to_le_bytes())?;
    out.write_all(&packed)?;
    out.flush()
}

/// Reads the account of a run folder.
///
/// # Errors
///
/// If there is no run at this place, or its account is missing, damaged, cut, or of another version.
pub fn read_account(folder: &Path) -> Result<Account, RunError> {
    let record = read_run(folder)?;
    let path = folder.join(ACCOUNT_FILE);
    let bytes = read_file_of(folder, &record, ACCOUNT_FILE)?;
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
    let Some((header, packed)) =
        bytes.split_at_checked(HEADER).filter(|(header, _)| header.starts_with(MAGIC))
    else {
        return Err("this is not an account of yarrup".to_owned());
    };
    let (version, hash) = header[MAGIC.len()..].split_at(4);
    let version = version.try_into().map_or(0, u32::from_le_bytes);
    if version != VERSION {
        return Err(format!(
            "the account has layout {version}, and this version of yarrup reads layout {VERSION}: make the run again"
        ));
    }
    if hash != crate::short_hash(packed).to_le_bytes() {
        return Err("the file was cut or changed since it was written".to_owned());
    }
    let unreadable = |why: &dyn std::fmt::Display| format!("the account cannot be read: {why}");
    let plain = zstd::stream::decode_all(packed).map_err(|why| unreadable(&why))?;
    let account: Account = postcard::from_bytes(&plain).map_err(|why| unreadable(&why))?;
    if !account.is_sound() {
        return Err(unreadable(&"its tables do not fit together"));
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
        later[MAGIC.len()] = 9;
        assert!(parsed(&later).expect_err("another layout").contains("layout 9"));
    }

    #[test]
    fn tables_that_do_not_fit_together_are_refused() {
        let mut account = account();
        account.found.push(1_000_000);
        let plain = postcard::to_allocvec(&account).expect("written");
        let packed = zstd::bulk::compress(&plain, LEVEL).expect("packed");
        let hash = crate::short_hash(&packed).to_le_bytes();
        let bytes = [MAGIC.as_slice(), &VERSION.to_le_bytes(), &hash, &packed].concat();
        assert!(parsed(&bytes).expect_err("unsound").contains("do not fit together"));
    }
}
