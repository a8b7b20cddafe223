//! Messages of Outlook (MS-OXMSG): a file with a stream for each property. The numbers of properties are those of MS-OXPROPS.

use encoding_rs::Encoding;
use mail_parser::DateTime;

use super::parted::{DEEPEST, Parted};
use crate::documents::guard::{BROKE, guarded};
use crate::documents::{Documents, FieldsWriter, Format, Input, Out, RawDocument, ReadError, Reader, Start};
use crate::format::code_page::of_code_page;
use crate::format::compound::{self, Compound};
use crate::format::facts;
use crate::format::markup::{Apart, read_page};

pub(crate) struct OutlookMessage;

/// The stream that every message has.
const PROPERTIES: &str = "__properties_version1.0";

impl Reader for OutlookMessage {
    fn format(&self) -> Format {
        Format::of(&facts::OUTLOOK)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        start.bytes.starts_with(compound::SIGN) && start.has_member(PROPERTIES)
    }

    fn is_read_apart(&self) -> bool {
        true
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let name = input.name.clone();
        let document = guarded(|| {
            let mut file = Compound::open(input)?;
            document(name, &mut file)
        });
        out.give(Documents(vec![document.unwrap_or_else(|| Err(ReadError::sentence(BROKE)))?]))
    }
}

const SUBJECT: u16 = 0x0037;
const SUBMITTED: u16 = 0x0039;
const SENDER: [u16; 3] = [0x0c1a, 0x5d01, 0x0c1f];
const SENT_FOR: [u16; 3] = [0x0042, 0x5d02, 0x0065];
const RECIPIENT: [u16; 3] = [0x3001, 0x39fe, 0x3003];
const RECIPIENT_SORT: u16 = 0x0c15;
const SHOWN_CC: u16 = 0x0e03;
const SHOWN_TO: u16 = 0x0e04;
const DELIVERED: u16 = 0x0e06;
const BODY: u16 = 0x1000;
const HTML: u16 = 0x1013;
const MESSAGE_ID: u16 = 0x1035;
const IN_REPLY_TO: u16 = 0x1042;
const ATTACHED_MESSAGE: &str = "__substg1.0_3701000D";
const FILE_NAMES: [u16; 2] = [0x3707, 0x3704];
const PAGE_CODE_PAGE: u16 = 0x3fde;
const CODE_PAGE: u16 = 0x3ffd;

/// The most recipients and attachments that are looked at.
const MOST: usize = 2048;

fn document(id: String, file: &mut Compound<'_>) -> Result<RawDocument, ReadError> {
    let mut message = Storage::of_message(file, String::new(), FIRST_OF_MESSAGE)?;
    let mut fields = FieldsWriter::default();
    fields.text_if_any("subject", &message.text(SUBJECT)?);
    let sender = message.person(SENDER)?;
    fields.text_if_any("from", &if sender.is_empty() { message.person(SENT_FOR)? } else { sender });
    let (mut to, mut cc) = message.recipients()?;
    for (named, shown) in [(&mut to, SHOWN_TO), (&mut cc, SHOWN_CC)] {
        if named.is_empty() {
            *named = message.text(shown)?.replace("; ", ", ");
        }
    }
    fields.text_if_any("to", &to);
    fields.text_if_any("cc", &cc);
    if let Some(date) = message.date(SUBMITTED).or_else(|| message.date(DELIVERED)) {
        fields.text("date", &date);
    }
    for (name, property) in [("message_id", MESSAGE_ID), ("in_reply_to", IN_REPLY_TO)] {
        fields.text_if_any(name, message.text(property)?.trim_matches(['<', '>']));
    }
    let (parted, attachments) = parted(&mut message, 0)?;
    fields.text_if_any("attachments", &attachments.join(", "));
    fields.text_if_any("quoted", &parted.quoted);
    fields.text_if_any("signature", &parted.signature);
    Ok(RawDocument { id, fields: fields.finish(), text: Some(parted.own), broken_bytes: 0 })
}

/// What a message says, and the names of what is attached to it.
fn parted(message: &mut Storage<'_, '_>, depth: usize) -> Result<(Parted, Vec<String>), ReadError> {
    let mut parts = Parted::default();
    let (body, cited) = message.body()?;
    parts.add(&body, &cited);
    let mut names = Vec::new();
    for number in 0..MOST {
        let path = format!("{}__attach_version1.0_#{number:08X}/", message.path);
        let Some(mut attachment) = message.inside(path.clone(), FIRST_OF_PART)? else { break };
        let name = attachment.first_text(&FILE_NAMES)?;
        if !name.is_empty() {
            names.push(name);
        }
        let inside = format!("{path}{ATTACHED_MESSAGE}/");
        if depth < DEEPEST
            && let Some(mut attached) = message.inside(inside, FIRST_OF_ATTACHED)?
        {
            let subject = attached.text(SUBJECT)?;
            parts.add_attached(&subject, &parted(&mut attached, depth + 1)?.0);
        }
    }
    Ok((parts, names))
}

/// How many bytes stand before the first property (section 2.4): of a message, of one that is attached, and of a recipient or an attachment.
const FIRST_OF_MESSAGE: usize = 32;
const FIRST_OF_ATTACHED: usize = 24;
const FIRST_OF_PART: usize = 8;

/// A message, a recipient or an attachment: properties, some of them in streams of their own.
struct Storage<'f, 'i> {
    file: &'f mut Compound<'i>,
    /// Where its streams lie.
    path: String,
    /// Properties of a fixed length, each by its number with its bytes.
    fixed: Vec<(u16, [u8; 8])>,
    encoding: &'static Encoding,
}

impl<'i> Storage<'_, 'i> {
    fn of_message<'f>(
        file: &'f mut Compound<'i>,
        path: String,
        first: usize,
    ) -> Result<Storage<'f, 'i>, ReadError> {
        let properties = file.stream(&format!("{path}{PROPERTIES}"))?;
        let properties = properties.ok_or_else(|| {
            ReadError::sentence("damaged message of Outlook: its list of properties is missing")
        })?;
        let entries = properties.get(first..).unwrap_or_default().chunks_exact(16);
        let fixed = entries.map(|entry| {
            let mut value = [0; 8];
            value.copy_from_slice(&entry[8..]);
            (u16::from_le_bytes([entry[2], entry[3]]), value)
        });
        let fixed: Vec<_> = fixed.collect();
        let mut storage = Storage { file, path, fixed, encoding: encoding_rs::WINDOWS_1252 };
        if let Some(page) = storage.number(CODE_PAGE).or_else(|| storage.number(PAGE_CODE_PAGE)) {
            storage.encoding = of_code_page(page);
        }
        Ok(storage)
    }

    /// What lies in this one; none if there is no such thing.
    fn inside(&mut self, path: String, first: usize) -> Result<Option<Storage<'_, 'i>>, ReadError> {
        if self.file.stream(&format!("{path}{PROPERTIES}"))?.is_none() {
            return Ok(None);
        }
        let encoding = self.encoding;
        let mut inside = Storage::of_message(self.file, path, first)?;
        if inside.number(CODE_PAGE).or_else(|| inside.number(PAGE_CODE_PAGE)).is_none() {
            inside.encoding = encoding;
        }
        Ok(Some(inside))
    }

    fn fixed(&self, property: u16) -> Option<[u8; 8]> {
        self.fixed.iter().find(|(number, _)| *number == property).map(|(_, value)| *value)
    }

    fn number(&self, property: u16) -> Option<i32> {
        self.fixed(property).map(|[a, b, c, d, ..]| i32::from_le_bytes([a, b, c, d]))
    }

    /// A point in time: steps of a ten-millionth of a second since 1601.
    fn date(&self, property: u16) -> Option<String> {
        const TO_1970: i64 = 11_644_473_600;
        let steps = u64::from_le_bytes(self.fixed(property)?);
        let seconds = i64::try_from(steps / 10_000_000).ok()? - TO_1970;
        let date = DateTime::from_timestamp(seconds);
        (steps > 0 && date.is_valid()).then(|| date.to_rfc3339())
    }

    fn stream(&mut self, property: u16, kind: u16) -> Result<Option<Vec<u8>>, ReadError> {
        self.file.stream(&format!("{}__substg1.0_{property:04X}{kind:04X}", self.path))
    }

    /// A text, in UTF-16 or in the code page of the message; empty if there is none.
    fn text(&mut self, property: u16) -> Result<String, ReadError> {
        let (bytes, encoding) = match self.stream(property, 0x001f)? {
            Some(bytes) => (bytes, encoding_rs::UTF_16LE),
            None => (self.stream(property, 0x001e)?.unwrap_or_default(), self.encoding),
        };
        // Some programs write the NUL that ends a text along with it.
        Ok(encoding.decode_without_bom_handling(&bytes).0.trim_end_matches('\0').to_owned())
    }

    /// The first of these that is there.
    fn first_text(&mut self, properties: &[u16]) -> Result<String, ReadError> {
        for property in properties {
            let text = self.text(*property)?;
            if !text.trim().is_empty() {
                return Ok(text.trim().to_owned());
            }
        }
        Ok(String::new())
    }

    /// Somebody by name and address. Addresses that only the server of a house knows are left out.
    fn person(&mut self, [name, addresses @ ..]: [u16; 3]) -> Result<String, ReadError> {
        let name = self.first_text(&[name])?;
        let mut address = String::new();
        for property in addresses {
            if address.is_empty() {
                address = self.first_text(&[property])?;
                address =
                    if address.contains('@') && !address.starts_with('/') { address } else { String::new() };
            }
        }
        let name = name.trim_matches('\'');
        Ok(match (name.is_empty(), address.is_empty()) {
            (false, false) if name != address => format!("{name} <{address}>"),
            (_, false) => address,
            (_, true) => name.to_owned(),
        })
    }

    /// Those whom a message is for, and those who get a copy.
    fn recipients(&mut self) -> Result<(String, String), ReadError> {
        let (mut to, mut cc) = (Vec::new(), Vec::new());
        for number in 0..MOST {
            let path = format!("{}__recip_version1.0_#{number:08X}/", self.path);
            let Some(mut recipient) = self.inside(path, FIRST_OF_PART)? else { break };
            let person = recipient.person(RECIPIENT)?;
            match recipient.number(RECIPIENT_SORT) {
                _ if person.is_empty() => {}
                Some(2) => cc.push(person),
                Some(3) => {}
                _ => to.push(person),
            }
        }
        Ok((to.join(", "), cc.join(", ")))
    }

    /// The text of the message, and what its page marks as quoted, if it has no plain text.
    fn body(&mut self) -> Result<(String, String), ReadError> {
        let plain = self.text(BODY)?;
        if !plain.trim().is_empty() {
            return Ok((plain.replace("\r\n", "\n"), String::new()));
        }
        let html = match self.stream(HTML, 0x0102)? {
            Some(bytes) => {
                let encoding = self.number(PAGE_CODE_PAGE).map_or(self.encoding, of_code_page);
                encoding.decode(&bytes).0.into_owned()
            }
            None => self.text(HTML)?,
        };
        let page = read_page(&html, Apart::Quotes).map_err(ReadError::sentence)?;
        Ok((page.text, page.apart))
    }
}

#[cfg(test)]
mod tests {
    use std::io::{Cursor, Write};

    use serde_json::json;

    use super::*;

    /// A list of properties: each with its type, its number and its value.
    fn properties(first: usize, entries: &[(u16, u16, u64)]) -> Vec<u8> {
        let mut bytes = vec![0; first];
        for (kind, property, value) in entries {
            bytes.extend([kind.to_le_bytes(), property.to_le_bytes(), [6, 0], [0, 0]].concat());
            bytes.extend(value.to_le_bytes());
        }
        bytes
    }

    fn wide(text: &str) -> Vec<u8> {
        text.encode_utf16().flat_map(u16::to_le_bytes).collect()
    }

    fn file(streams: &[(&str, Vec<u8>)]) -> Vec<u8> {
        let mut file = cfb::CompoundFile::create(Cursor::new(Vec::new())).expect("memory");
        for (path, content) in streams {
            if let Some((storage, _)) = path.rsplit_once('/') {
                file.create_storage_all(storage).expect("a storage");
            }
            file.create_stream(path).expect("a stream").write_all(content).expect("memory");
        }
        file.flush().expect("memory");
        file.into_inner().into_inner()
    }

    fn read(streams: &[(&str, Vec<u8>)]) -> Result<(serde_json::Value, String), ReadError> {
        let mut input = Input::new("note.msg".to_owned(), Cursor::new(file(streams)));
        let document = document("note.msg".to_owned(), &mut Compound::open(&mut input)?)?;
        Ok((serde_json::from_str(&document.fields).expect("an object"), document.text.unwrap_or_default()))
    }

    #[test]
    fn a_message_has_its_fields_and_its_text() {
        // 4 May 2031, 06:30 in the world's time.
        let date = (1_935_642_600 + 11_644_473_600) * 10_000_000;
        let attachment = "__attach_version1.0_#00000000";
        let inside = format!("{attachment}/__substg1.0_3701000D");
        let (fields, text) = read(&[
            (PROPERTIES, properties(32, &[(0x40, SUBMITTED, date)])),
            ("__substg1.0_0037001F", wide("Café keys")),
            ("__substg1.0_0C1A001F", wide("Mira Sandoval")),
            ("__substg1.0_0C1F001F", wide("/O=SALTMERE/OU=WARDENS/CN=MIRA")),
            ("__substg1.0_5D01001F", wide("mira@example.org")),
            ("__substg1.0_0E04001F", wide("not asked")),
            ("__substg1.0_1035001F", wide("<1@example.org>")),
            (
                "__substg1.0_1000001F",
                wide("Under the mat.\r\n\r\nOn Sunday Teo wrote:\r\n> Where?\r\n-- \r\nMira\r\n"),
            ),
            (
                "__recip_version1.0_#00000000/__properties_version1.0",
                properties(8, &[(3, RECIPIENT_SORT, 1)]),
            ),
            ("__recip_version1.0_#00000000/__substg1.0_3001001F", wide("'Teo'")),
            ("__recip_version1.0_#00000000/__substg1.0_39FE001F", wide("teo@example.org")),
            (
                "__recip_version1.0_#00000001/__properties_version1.0",
                properties(8, &[(3, RECIPIENT_SORT, 2)]),
            ),
            ("__recip_version1.0_#00000001/__substg1.0_3001001F", wide("bo@example.org")),
            ("__recip_version1.0_#00000001/__substg1.0_3003001F", wide("bo@example.org")),
            (
                "__recip_version1.0_#00000002/__properties_version1.0",
                properties(8, &[(3, RECIPIENT_SORT, 3)]),
            ),
            ("__recip_version1.0_#00000002/__substg1.0_3001001F", wide("unseen@example.org")),
            (&format!("{attachment}/__properties_version1.0"), properties(8, &[])),
            (&format!("{attachment}/__substg1.0_3707001F"), wide("keys.msg")),
            (&format!("{inside}/__properties_version1.0"), properties(24, &[])),
            (&format!("{inside}/__substg1.0_0037001F"), wide("Keys")),
            (&format!("{inside}/__substg1.0_1000001F"), wide("Two of them.")),
        ])
        .expect("a message");
        assert_eq!(text, "Under the mat.");
        assert_eq!(
            fields,
            json!({
                "subject": "Café keys", "from": "Mira Sandoval <mira@example.org>", "to": "Teo <teo@example.org>",
                "cc": "bo@example.org", "date": "2031-05-04T06:30:00Z", "message_id": "1@example.org",
                "attachments": "keys.msg", "quoted": "On Sunday Teo wrote:\n> Where?\n\nKeys\n\nTwo of them.", "signature": "Mira"
            })
        );
    }

    #[test]
    fn old_messages_have_a_code_page_and_some_only_a_page() {
        let (russian, ..) = encoding_rs::WINDOWS_1251.encode("Две крачки");
        let (fields, text) = read(&[
            (PROPERTIES, properties(32, &[(3, CODE_PAGE, 1251)])),
            ("__substg1.0_0037001E", russian.to_vec()),
            ("__substg1.0_0E04001E", b"Teo; Bo\0".to_vec()),
            ("__substg1.0_1000001E", russian.to_vec()),
        ])
        .expect("a message");
        assert_eq!(
            (fields, text.as_str()),
            (json!({ "subject": "Две крачки", "to": "Teo, Bo" }), "Две крачки")
        );
        let (fields, text) = read(&[
            (PROPERTIES, properties(32, &[(3, PAGE_CODE_PAGE, 65001)])),
            ("__substg1.0_0037001E", "Möwen".into()),
            ("__substg1.0_10130102", "<p>Möwen</p><blockquote type=cite>Wo?</blockquote>".into()),
        ])
        .expect("a message");
        assert_eq!((fields, text.as_str()), (json!({ "subject": "Möwen", "quoted": "Wo?" }), "Möwen"));
        assert!(
            read(&[("__substg1.0_1000001F", wide("tern"))])
                .is_err_and(|why| format!("{why:?}").contains("list of properties"))
        );
        // A list that is cut off, and a point in time that is none.
        let (fields, _) =
            read(&[(PROPERTIES, properties(32, &[(0x40, SUBMITTED, u64::MAX)])[..47].to_vec())])
                .expect("a message");
        assert_eq!(fields, json!({}));
        let (fields, _) =
            read(&[(PROPERTIES, properties(32, &[(0x40, SUBMITTED, u64::MAX)]))]).expect("a message");
        assert_eq!(fields, json!({}));
    }
}
