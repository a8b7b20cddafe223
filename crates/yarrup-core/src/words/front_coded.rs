/// Words in the order of their bytes, unpacked from a front-coded list: for each word a byte says how many bytes it shares with the one
/// before, then comes the rest of it and a zero byte, and in lists that have flags one byte of them.
#[derive(Debug)]
pub(crate) struct FrontCoded {
    /// All words, one behind the other.
    letters: String,
    /// Where each word begins, and the end of the last.
    begins: Vec<u32>,
    flags: Vec<u8>,
    /// Where words begin that have these two first bytes or later ones: most of a search ends here.
    pairs: Vec<u32>,
}

/// The first two bytes of a word as a number that sorts as they do.
fn pair(word: &str) -> usize {
    let byte = |at: usize| usize::from(word.as_bytes().get(at).copied().unwrap_or_default());
    byte(0) << 8 | byte(1)
}

impl FrontCoded {
    pub(crate) fn unpacked(packed: &[u8], flagged: bool) -> FrontCoded {
        let (mut letters, mut begins) = (Vec::with_capacity(packed.len() * 3), vec![0]);
        let mut flags = Vec::new();
        let mut word: Vec<u8> = Vec::new();
        let mut rest = packed;
        while let Some((&shared, tail)) = rest.split_first() {
            let end = tail.iter().position(|&byte| byte == 0).unwrap_or(tail.len());
            word.truncate(usize::from(shared));
            word.extend_from_slice(&tail[..end]);
            letters.extend_from_slice(&word);
            begins.push(letters.len() as u32);
            rest = tail.get(end + 1..).unwrap_or_default();
            if flagged {
                flags.push(rest.first().copied().unwrap_or_default());
                rest = rest.get(1..).unwrap_or_default();
            }
        }
        // The lists ship inside, and tests read every word of them.
        let Ok(letters) = String::from_utf8(letters) else { return FrontCoded::unpacked(&[], flagged) };
        let mut list = FrontCoded { letters, begins, flags, pairs: Vec::with_capacity((1 << 16) + 1) };
        for number in 0..list.len() {
            let pair = pair(list.word(number));
            while list.pairs.len() <= pair {
                list.pairs.push(number as u32);
            }
        }
        list.pairs.resize((1 << 16) + 1, list.len() as u32);
        list
    }

    pub(crate) fn len(&self) -> usize {
        self.begins.len() - 1
    }

    pub(crate) fn word(&self, number: usize) -> &str {
        &self.letters[self.begins[number] as usize..self.begins[number + 1] as usize]
    }

    /// The place of `word` in the list.
    pub(crate) fn find(&self, word: &str) -> Option<usize> {
        let pair = pair(word);
        let (mut low, mut high) = (self.pairs[pair] as usize, self.pairs[pair + 1] as usize);
        while low < high {
            let middle = (low + high) / 2;
            match self.word(middle).cmp(word) {
                std::cmp::Ordering::Equal => return Some(middle),
                std::cmp::Ordering::Less => low = middle + 1,
                std::cmp::Ordering::Greater => high = middle,
            }
        }
        None
    }

    /// The flags of `word`, if the list holds it.
    pub(crate) fn flags(&self, word: &str) -> Option<u8> {
        self.flags.get(self.find(word)?).copied()
    }
}
