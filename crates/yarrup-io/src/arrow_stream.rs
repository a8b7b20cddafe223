//! Streams of Arrow record batches: documents in the rows of one, and the same rows with more columns in another.

use std::borrow::Cow;
use std::io::{self, Read, Write};
use std::sync::Arc;

use arrow_array::cast::AsArray;
use arrow_array::types::{
    Float32Type, Float64Type, Int8Type, Int16Type, Int32Type, Int64Type, UInt8Type, UInt16Type, UInt32Type,
    UInt64Type,
};
use arrow_array::{Array, ArrayRef, Int64Array, RecordBatch, StringArray};
use arrow_ipc::reader::StreamReader;
use arrow_ipc::writer::StreamWriter;
use arrow_schema::{ArrowError, DataType, Field, Schema};
use yarrup_core::Fields;

/// A stream of batches whose rows are documents.
pub struct ArrowDocuments<R: Read> {
    reader: StreamReader<R>,
    /// The place of the column that is the text.
    text: usize,
}

/// Rows of a stream.
#[derive(Clone, Debug)]
pub struct ArrowRows {
    batch: RecordBatch,
    text: usize,
}

/// One row, with its columns as fields.
#[derive(Clone, Copy, Debug)]
pub struct ArrowRow<'r> {
    rows: &'r ArrowRows,
    row: usize,
}

/// What is made of rows: a value a row in each.
#[derive(Clone, Debug, Default)]
pub struct ArrowAdded {
    /// The cleaned text; none of a document that was left out.
    pub clean: Vec<Option<String>>,
    /// Tokens of the text as found; none of a document that was left out.
    pub tokens_before: Vec<Option<i64>>,
    /// Tokens in the end.
    pub tokens_after: Vec<Option<i64>>,
    /// Why a document was left out.
    pub left_out: Vec<Option<String>>,
}

/// The columns that are added.
const ADDED: [(&str, DataType); 4] = [
    ("clean", DataType::Utf8),
    ("tokens_before", DataType::Int64),
    ("tokens_after", DataType::Int64),
    ("left_out", DataType::Utf8),
];

impl<R: Read> ArrowDocuments<R> {
    /// Reads the schema of a stream, and finds the column that is the text.
    ///
    /// # Errors
    ///
    /// If it is no such stream, or has no such column of texts.
    pub fn new(reader: R, text: &str) -> Result<ArrowDocuments<R>, String> {
        let reader = StreamReader::try_new(reader, None)
            .map_err(|why| format!("this is not a stream of Arrow record batches: {why}"))?;
        let schema = reader.schema();
        let named = || schema.fields().iter().map(|field| format!("`{}`", field.name())).collect::<Vec<_>>();
        let place = schema
            .index_of(text)
            .map_err(|_| format!("no column `{text}`; there are {}", named().join(", ")))?;
        match schema.field(place).data_type() {
            DataType::Utf8 | DataType::LargeUtf8 | DataType::Utf8View => {}
            other => return Err(format!("the column `{text}` is {other}, and no texts")),
        }
        Ok(ArrowDocuments { reader, text: place })
    }

    /// The columns of what comes out: those that come in, but for old ones of the names that are added.
    fn schema(&self) -> Schema {
        let fields = self.reader.schema();
        let kept = fields.fields().iter().filter(|field| !is_added(field.name())).cloned();
        let added = ADDED.map(|(name, kind)| Arc::new(Field::new(name, kind, true)));
        Schema::new_with_metadata(kept.chain(added).collect::<Vec<_>>(), fields.metadata().clone())
    }

    /// The next rows; none at the end.
    ///
    /// # Errors
    ///
    /// If the stream is cut or damaged.
    pub fn next_rows(&mut self) -> Result<Option<ArrowRows>, String> {
        let next = self.reader.next().transpose().map_err(|why| told(&why))?;
        Ok(next.map(|batch| ArrowRows { batch, text: self.text }))
    }
}

fn is_added(name: &str) -> bool {
    ADDED.iter().any(|(added, _)| *added == name)
}

fn told(why: &ArrowError) -> String {
    format!("the stream of record batches is damaged: {why}")
}

impl ArrowRows {
    /// How many there are.
    pub fn len(&self) -> usize {
        self.batch.num_rows()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// One of them.
    pub fn row(&self, row: usize) -> ArrowRow<'_> {
        ArrowRow { rows: self, row }
    }
}

impl<'r> ArrowRow<'r> {
    /// Its text; nothing where there is none.
    pub fn text(&self) -> &'r str {
        text_of(self.rows.batch.column(self.rows.text), self.row).unwrap_or_default()
    }
}

impl Fields for ArrowRow<'_> {
    fn field(&self, path: &str) -> Option<Cow<'_, str>> {
        let column = self.rows.batch.column_by_name(path)?;
        if column.is_null(self.row) {
            return None;
        }
        if let Some(text) = text_of(column, self.row) {
            return Some(text.into());
        }
        macro_rules! number {
            ($($kind:ident),*) => {
                match column.data_type() {
                    DataType::Boolean => Some(column.as_boolean().value(self.row).to_string().into()),
                    $(kind if *kind == <$kind as arrow_array::types::ArrowPrimitiveType>::DATA_TYPE => {
                        Some(column.as_primitive::<$kind>().value(self.row).to_string().into())
                    })*
                    _ => None,
                }
            };
        }
        number!(
            Int8Type,
            Int16Type,
            Int32Type,
            Int64Type,
            UInt8Type,
            UInt16Type,
            UInt32Type,
            UInt64Type,
            Float32Type,
            Float64Type
        )
    }
}

/// The text in a cell, if it is one.
fn text_of(column: &ArrayRef, row: usize) -> Option<&str> {
    if column.is_null(row) {
        return None;
    }
    match column.data_type() {
        DataType::Utf8 => Some(column.as_string::<i32>().value(row)),
        DataType::LargeUtf8 => Some(column.as_string::<i64>().value(row)),
        DataType::Utf8View => Some(column.as_string_view().value(row)),
        _ => None,
    }
}

/// A stream of the same rows with what was made of them.
pub struct ArrowCleaned<W: Write> {
    writer: StreamWriter<W>,
    schema: Arc<Schema>,
}

impl<W: Write> ArrowCleaned<W> {
    /// Begins the stream for the rows of another.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn new<R: Read>(out: W, documents: &ArrowDocuments<R>) -> io::Result<ArrowCleaned<W>> {
        let schema = Arc::new(documents.schema());
        let writer = StreamWriter::try_new(out, &schema).map_err(broken)?;
        Ok(ArrowCleaned { writer, schema })
    }

    /// Writes rows, with a value for each of them in all that is added.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn write(&mut self, rows: &ArrowRows, added: ArrowAdded) -> io::Result<()> {
        let batch = &rows.batch;
        let names = batch.schema();
        let kept = names.fields().iter().zip(batch.columns()).filter(|(field, _)| !is_added(field.name()));
        let mut columns: Vec<ArrayRef> = kept.map(|(_, column)| column.clone()).collect();
        columns.push(Arc::new(StringArray::from(added.clean)));
        columns.push(Arc::new(Int64Array::from(added.tokens_before)));
        columns.push(Arc::new(Int64Array::from(added.tokens_after)));
        columns.push(Arc::new(StringArray::from(added.left_out)));
        let batch = RecordBatch::try_new(self.schema.clone(), columns).map_err(broken)?;
        self.writer.write(&batch).and_then(|()| self.writer.flush()).map_err(broken)
    }

    /// Ends the stream.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn finish(mut self) -> io::Result<()> {
        self.writer.finish().map_err(broken)
    }
}

/// Why a stream cannot be written: what the system says, if it is that.
fn broken(why: ArrowError) -> io::Error {
    match why {
        ArrowError::IoError(_, why) => why,
        other => io::Error::other(other),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use arrow_array::{LargeStringArray, StringViewArray};

    fn stream(text: ArrayRef, extra: ArrayRef) -> Vec<u8> {
        let schema = Arc::new(Schema::new(vec![
            Field::new("note", text.data_type().clone(), true),
            Field::new("extra", extra.data_type().clone(), true),
            Field::new("clean", DataType::Int64, true),
        ]));
        let old: ArrayRef = Arc::new(Int64Array::from(vec![7; text.len()]));
        let batch = RecordBatch::try_new(schema.clone(), vec![text, extra, old]).expect("a batch");
        let mut bytes = Vec::new();
        let mut writer = StreamWriter::try_new(&mut bytes, &schema).expect("a stream");
        writer.write(&batch).expect("written");
        writer.finish().expect("ended");
        bytes
    }

    #[test]
    fn rows_of_every_sort_of_text_go_through_with_more_columns() {
        let texts = vec![Some("tern"), None, Some("é")];
        let columns: [ArrayRef; 3] = [
            Arc::new(StringArray::from(texts.clone())),
            Arc::new(LargeStringArray::from(texts.clone())),
            Arc::new(StringViewArray::from(texts)),
        ];
        for column in columns {
            let bytes = stream(column, Arc::new(Int64Array::from(vec![Some(4), None, Some(-1)])));
            let mut documents = ArrowDocuments::new(bytes.as_slice(), "note").expect("a stream");
            let mut out = Vec::new();
            let mut cleaned = ArrowCleaned::new(&mut out, &documents).expect("begun");
            let rows = documents.next_rows().expect("whole").expect("rows");
            let texts: Vec<&str> = (0..rows.len()).map(|row| rows.row(row).text()).collect();
            assert_eq!(texts, ["tern", "", "é"]);
            assert_eq!(rows.row(0).field("extra").as_deref(), Some("4"));
            assert_eq!((rows.row(1).field("extra"), rows.row(0).field("other")), (None, None));
            let added = ArrowAdded {
                clean: vec![Some("x".into()), None, Some(String::new())],
                tokens_before: vec![Some(1), None, Some(1)],
                tokens_after: vec![Some(1), None, Some(0)],
                left_out: vec![None, Some("short".into()), None],
            };
            cleaned.write(&rows, added).expect("written");
            assert!(documents.next_rows().expect("whole").is_none());
            cleaned.finish().expect("ended");
            let back =
                StreamReader::try_new(out.as_slice(), None).expect("a stream").next().expect("a batch");
            let back = back.expect("whole");
            let names: Vec<String> =
                back.schema().fields().iter().map(|field| field.name().clone()).collect();
            assert_eq!(names, ["note", "extra", "clean", "tokens_before", "tokens_after", "left_out"]);
            assert_eq!(back.column(2).as_string::<i32>().value(0), "x");
            assert!(back.column(2).is_null(1) && back.column(5).as_string::<i32>().value(1) == "short");
        }
    }

    #[test]
    fn what_is_no_stream_of_texts_is_refused() {
        let numbers = || -> ArrayRef { Arc::new(Int64Array::from(vec![1])) };
        let bytes = stream(numbers(), numbers());
        let why = |bytes: &[u8], column: &str| ArrowDocuments::new(bytes, column).err().unwrap_or_default();
        assert_eq!(why(&bytes, "note"), "the column `note` is Int64, and no texts");
        assert_eq!(why(&bytes, "text"), "no column `text`; there are `note`, `extra`, `clean`");
        assert!(why(b"{\"text\":1}\n", "text").starts_with("this is not a stream of Arrow record batches"));
        let text: ArrayRef = Arc::new(StringArray::from(vec!["tern"; 50]));
        let whole = stream(text, Arc::new(Int64Array::from(vec![1; 50])));
        let mut cut = ArrowDocuments::new(&whole[..whole.len() - 60], "note").expect("a schema");
        assert!(cut.next_rows().is_err());
    }
}
