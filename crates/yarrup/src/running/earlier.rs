//! An earlier run, whose recipe is taken for new documents.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use yarrup_core::Account;
use yarrup_core::compare::{Drift, LengthShift, Ranked, UnknownWords, Vocabularies};
use yarrup_io::{ACCOUNT_FILE, AgainstRecord, RunRecord, read_account, read_run};

use super::Lengths;
use crate::failure::Failure;
use crate::figures::noted;

/// An earlier run.
pub(crate) struct Earlier {
    folder: PathBuf,
    record: RunRecord,
    pub(crate) account: Account,
    lengths: Lengths,
}

/// How many words are named that it has never met.
const NAMED: usize = 10;

impl Earlier {
    /// Opens the run in a folder.
    pub(crate) fn open(folder: &Path) -> Result<Earlier, Failure> {
        let record = read_run(folder)?;
        let account = read_account(folder)?;
        let (_, lengths) = noted(folder, &record)?;
        Ok(Earlier { folder: folder.to_owned(), record, account, lengths })
    }

    /// Its recipe, with all that it learned.
    pub(crate) fn recipe(&self) -> PathBuf {
        self.folder.join(self.record.frozen_recipe())
    }

    /// How new documents stand against its own.
    pub(crate) fn against(&self, account: &Account, lengths: &Lengths) -> AgainstRecord {
        let words = UnknownWords::of(&self.account, account);
        let (here, there) = (Ranked::of(&self.account), Ranked::of(account));
        let drift = Drift::of(&Vocabularies::of(&here, &there));
        let kept = |lengths: &Lengths| -> BTreeMap<u64, u64> {
            let kept = lengths.iter().map(|(tokens, (_, documents))| (*tokens, *documents));
            kept.filter(|(_, documents)| *documents > 0).collect()
        };
        AgainstRecord {
            run: self.folder.display().to_string(),
            account: self.record.files.get(ACCOUNT_FILE).map_or_else(String::new, |file| file.hash.clone()),
            unknown_words_share: if words.of == 0 { 0.0 } else { words.tokens as f64 / words.of as f64 },
            unknown_words: words.tokens,
            unknown_share: drift.unknown_share,
            gone_share: drift.gone_share,
            length_distance: LengthShift::of(&kept(&self.lengths), &kept(lengths)).distance,
            such_as: words.words.iter().take(NAMED).map(|(word, _)| (*word).to_owned()).collect(),
        }
    }
}
