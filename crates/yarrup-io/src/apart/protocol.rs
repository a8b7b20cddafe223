//! What two processes tell each other on a pipe: messages in Postcard, each behind its length.

use std::io::{self, Read, Write};

use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};

use super::limits::Limits;
use crate::documents::{Header, Piece, RawDocument, ReadError, ReadOptions, Unit};
use crate::record::Why;

/// The longest message that is believed: a document has a GiB at most.
const LONGEST: u64 = 3 << 30;

/// A file that is to be read.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(super) struct Request {
    pub(super) format: String,
    pub(super) name: String,
    pub(super) file_name: String,
    pub(super) path: String,
    /// The piece of it that is wanted, if not all of it.
    pub(super) piece: Option<Piece>,
    pub(super) asked: Asked,
    pub(super) limits: Limits,
}

/// The options that the readers of these formats look at.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(super) struct Asked {
    unit: Option<String>,
    header: Option<Header>,
    sheet: Option<String>,
    column: Option<String>,
    table: Option<String>,
    query: Option<String>,
    rejoin: bool,
    trust_archives: bool,
}

impl Asked {
    pub(super) fn of(options: &ReadOptions) -> Asked {
        Asked {
            unit: options.unit.map(|unit| unit.name().to_owned()),
            header: options.header,
            sheet: options.sheet.clone(),
            column: options.column.clone(),
            table: options.table.clone(),
            query: options.query.clone(),
            rejoin: options.rejoin,
            trust_archives: options.trust_archives,
        }
    }

    pub(super) fn options(&self) -> ReadOptions {
        let unit = Unit::NAMES.iter().find(|(name, _)| Some(*name) == self.unit.as_deref());
        ReadOptions {
            unit: unit.map(|(_, unit)| *unit),
            header: self.header,
            sheet: self.sheet.clone(),
            column: self.column.clone(),
            table: self.table.clone(),
            query: self.query.clone(),
            rejoin: self.rejoin,
            trust_archives: self.trust_archives,
            ..ReadOptions::default()
        }
    }
}

/// Part of what is in a file.
#[derive(Debug, PartialEq, Serialize, Deserialize)]
pub(super) enum Answer {
    Documents(Vec<RawDocument>),
    /// A piece that is to be asked for by itself.
    Piece(Piece),
    Malformed {
        place: String,
        why: Why,
    },
    PassedOver(String),
    Note(String),
}

/// What the reading process sends.
#[derive(Debug, PartialEq, Serialize, Deserialize)]
pub(super) enum Sent {
    Part(Answer),
    /// The file was read to its end.
    Done,
    /// It was not: a sentence.
    Failed(String),
    /// It is of a kind that is not read, which is named.
    NotRead(String),
}

impl Sent {
    pub(super) fn of(read: Result<(), ReadError>) -> Sent {
        match read {
            Ok(()) => Sent::Done,
            Err(ReadError::NotRead(what)) => Sent::NotRead(what),
            Err(error) => Sent::Failed(error.told()),
        }
    }
}

/// Sends a message.
pub(super) fn send(out: &mut impl Write, message: &impl Serialize) -> io::Result<()> {
    let bytes = postcard::to_allocvec(message).map_err(io::Error::other)?;
    out.write_all(&(bytes.len() as u64).to_le_bytes())?;
    out.write_all(&bytes)?;
    out.flush()
}

/// Receives a message; none where the other process has ended.
pub(super) fn receive<T: DeserializeOwned>(input: &mut impl Read) -> io::Result<Option<T>> {
    let mut length = [0; 8];
    match input.read_exact(&mut length) {
        Err(why) if why.kind() == io::ErrorKind::UnexpectedEof => return Ok(None),
        other => other?,
    }
    let length = u64::from_le_bytes(length);
    if length > LONGEST {
        return Err(io::Error::other("a message longer than any"));
    }
    let mut bytes = Vec::new();
    input.take(length).read_to_end(&mut bytes)?;
    if (bytes.len() as u64) < length {
        return Ok(None);
    }
    postcard::from_bytes(&bytes).map(Some).map_err(io::Error::other)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn messages_come_as_they_went_or_not_at_all() {
        let document = RawDocument {
            id: "a.pdf:1".into(),
            fields: "{}".into(),
            text: Some("tern".into()),
            broken_bytes: 2,
        };
        let sent = [
            Sent::Part(Answer::Documents(vec![document])),
            Sent::Part(Answer::Malformed { place: "a".into(), why: Why::Record("no".into()) }),
            Sent::Done,
        ];
        let mut bytes = Vec::new();
        for message in &sent {
            send(&mut bytes, message).expect("sent");
        }
        let mut input = bytes.as_slice();
        for message in &sent {
            assert_eq!(receive::<Sent>(&mut input).expect("received").as_ref(), Some(message));
        }
        assert_eq!(receive::<Sent>(&mut input).expect("the end"), None);
        // A process that dies in the middle of a message.
        for cut in 1..24 {
            assert_eq!(receive::<Sent>(&mut &bytes[..cut]).expect("cut"), None, "cut at {cut}");
        }
        assert!(receive::<Sent>(&mut [255; 16].as_slice()).is_err());
    }

    #[test]
    fn what_readers_look_at_goes_with_the_request() {
        let options = ReadOptions {
            unit: Some(Unit::Cell),
            header: Some(Header::Row(3)),
            query: Some("SELECT 1".into()),
            rejoin: true,
            trust_archives: true,
            ..ReadOptions::default()
        };
        let sent = postcard::to_allocvec(&Asked::of(&options)).expect("packed");
        let received: Asked = postcard::from_bytes(&sent).expect("unpacked");
        assert_eq!(format!("{:?}", received.options()), format!("{options:?}"));
    }
}
