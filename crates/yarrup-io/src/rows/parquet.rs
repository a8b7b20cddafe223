//! Rows as Parquet: a group of rows is packed by whoever gathered it, and put into the file in its turn.

use std::io::{self, Write};
use std::sync::Arc;

use bytes::Bytes;
use parquet::basic::{
    Compression, ConvertedType, Encoding, LogicalType, Repetition, Type as Physical, ZstdLevel,
};
use parquet::column::writer::{ColumnCloseResult, get_column_writer, get_typed_column_writer};
use parquet::data_type::{BoolType, ByteArray, ByteArrayType, DataType, DoubleType, Int64Type};
use parquet::errors::ParquetError;
use parquet::file::properties::{EnabledStatistics, WriterProperties};
use parquet::file::writer::{SerializedFileWriter, SerializedPageWriter, TrackedWrite};
use parquet::schema::types::{ColumnPath, SchemaDescriptor, Type};

use crate::rows::{Cells, RowColumn, RowType, Rows, Values};

/// Packs groups of rows.
#[derive(Clone)]
pub(crate) struct GroupEncoder {
    schema: Arc<Type>,
    columns: Arc<SchemaDescriptor>,
    properties: Arc<WriterProperties>,
}

/// A group of rows as it stands in the file: its columns.
pub(crate) struct EncodedGroup(Vec<(Bytes, ColumnCloseResult)>);

fn failed(why: ParquetError) -> io::Error {
    match why {
        ParquetError::External(why) => match why.downcast::<io::Error>() {
            Ok(why) => *why,
            Err(why) => io::Error::other(why.to_string()),
        },
        why => io::Error::other(why.to_string()),
    }
}

/// A column, that may hold nothing.
fn column_type(column: &RowColumn) -> Result<Type, ParquetError> {
    let text = |name: &str, repetition| {
        Type::primitive_type_builder(name, Physical::BYTE_ARRAY)
            .with_repetition(repetition)
            .with_converted_type(ConvertedType::UTF8)
            .with_logical_type(Some(LogicalType::String))
            .build()
    };
    let plain = |physical| {
        Type::primitive_type_builder(&column.name, physical).with_repetition(Repetition::OPTIONAL).build()
    };
    match column.kind {
        RowType::Text | RowType::Date | RowType::Time | RowType::ZonedTime => {
            text(&column.name, Repetition::OPTIONAL)
        }
        RowType::Whole => plain(Physical::INT64),
        RowType::Number => plain(Physical::DOUBLE),
        RowType::Truth => plain(Physical::BOOLEAN),
        // The three levels that Parquet's description of logical types gives for lists.
        RowType::Texts => {
            let items = Type::group_type_builder("list")
                .with_repetition(Repetition::REPEATED)
                .with_fields(vec![Arc::new(text("element", Repetition::REQUIRED)?)])
                .build()?;
            Type::group_type_builder(&column.name)
                .with_repetition(Repetition::OPTIONAL)
                .with_converted_type(ConvertedType::LIST)
                .with_logical_type(Some(LogicalType::List))
                .with_fields(vec![Arc::new(items)])
                .build()
        }
    }
}

impl GroupEncoder {
    pub(crate) fn new(columns: &[RowColumn]) -> io::Result<GroupEncoder> {
        let fields = columns.iter().map(|column| column_type(column).map(Arc::new));
        let fields = fields.collect::<Result<Vec<_>, _>>().map_err(failed)?;
        let schema = Type::group_type_builder("rows").with_fields(fields).build().map_err(failed)?;
        let schema = Arc::new(schema);
        let level = ZstdLevel::try_new(1).map_err(failed)?;
        let mut properties = WriterProperties::builder()
            .set_compression(Compression::ZSTD(level))
            .set_statistics_enabled(EnabledStatistics::Chunk)
            .set_created_by(format!("yarrup {}", env!("CARGO_PKG_VERSION")));
        // Places and counts hardly repeat, and grow: their differences are small.
        for column in columns.iter().filter(|column| column.kind == RowType::Whole) {
            let path = ColumnPath::from(vec![column.name.clone()]);
            properties = properties
                .set_column_dictionary_enabled(path.clone(), false)
                .set_column_encoding(path, Encoding::DELTA_BINARY_PACKED);
        }
        let columns = Arc::new(SchemaDescriptor::new(schema.clone()));
        Ok(GroupEncoder { schema, columns, properties: Arc::new(properties.build()) })
    }

    /// Packs these rows.
    pub(crate) fn encode(&self, rows: Rows) -> io::Result<EncodedGroup> {
        let columns = rows.columns.into_iter().enumerate();
        let columns = columns.map(|(number, cells)| self.column(number, cells)).collect::<Result<_, _>>();
        columns.map(EncodedGroup).map_err(failed)
    }

    fn column(&self, number: usize, cells: Cells) -> Result<(Bytes, ColumnCloseResult), ParquetError> {
        let levels: Vec<i16> = cells.filled.iter().map(|filled| i16::from(*filled)).collect();
        match cells.values {
            Values::Wholes(values) => self.pack::<Int64Type>(number, &values, &levels, None),
            Values::Numbers(values) => self.pack::<DoubleType>(number, &values, &levels, None),
            Values::Truths(values) => self.pack::<BoolType>(number, &values, &levels, None),
            Values::Texts(all, spans) => {
                self.pack::<ByteArrayType>(number, &texts(all, &spans), &levels, None)
            }
            Values::Lists(all, spans, ends) => {
                let (levels, repeats) = list_levels(&cells.filled, &ends);
                self.pack::<ByteArrayType>(number, &texts(all, &spans), &levels, Some(&repeats))
            }
        }
    }

    fn pack<T: DataType>(
        &self,
        number: usize,
        values: &[T::T],
        levels: &[i16],
        repeats: Option<&[i16]>,
    ) -> Result<(Bytes, ColumnCloseResult), ParquetError> {
        let mut out = TrackedWrite::new(Vec::new());
        let pages = Box::new(SerializedPageWriter::new(&mut out));
        let writer = get_column_writer(self.columns.column(number), self.properties.clone(), pages);
        let mut writer = get_typed_column_writer::<T>(writer);
        writer.write_batch(values, Some(levels), repeats)?;
        let closed = writer.close()?;
        Ok((Bytes::from(out.into_inner()?), closed))
    }
}

fn texts(all: String, spans: &[(usize, usize)]) -> Vec<ByteArray> {
    let all = ByteArray::from(all.into_bytes());
    let mut texts: Vec<ByteArray> = Vec::with_capacity(spans.len());
    for &(start, end) in spans {
        texts.push(all.slice(start, end - start));
    }
    texts
}

/// For every item of a list, and for every list without any: how much of its path is there (0 no list, 1 an empty one, 2 an item), and whether it
/// goes on with the list before it (1).
fn list_levels(filled: &[bool], ends: &[usize]) -> (Vec<i16>, Vec<i16>) {
    let (mut levels, mut repeats) = (Vec::new(), Vec::new());
    let (mut start, mut ends) = (0, ends.iter());
    for filled in filled {
        let items = match filled.then(|| ends.next()).flatten() {
            Some(&end) => {
                let items = end - start;
                start = end;
                Some(items)
            }
            None => None,
        };
        match items {
            None | Some(0) => {
                levels.push(i16::from(items.is_some()));
                repeats.push(0);
            }
            Some(items) => {
                levels.extend(std::iter::repeat_n(2, items));
                repeats.push(0);
                repeats.extend(std::iter::repeat_n(1, items - 1));
            }
        }
    }
    (levels, repeats)
}

/// A Parquet file that is being written.
pub(crate) struct ParquetFile<W: Write + Send>(SerializedFileWriter<W>);

impl<W: Write + Send> ParquetFile<W> {
    pub(crate) fn new(out: W, encoder: &GroupEncoder) -> io::Result<ParquetFile<W>> {
        SerializedFileWriter::new(out, encoder.schema.clone(), encoder.properties.clone())
            .map(ParquetFile)
            .map_err(failed)
    }

    /// Adds a group.
    pub(crate) fn group(&mut self, group: EncodedGroup) -> io::Result<()> {
        let add = || {
            let mut rows = self.0.next_row_group()?;
            for (bytes, closed) in group.0 {
                rows.append_column(&bytes, closed)?;
            }
            rows.close().map(drop)
        };
        add().map_err(failed)
    }

    /// Ends the file, and gives back what it was written to.
    pub(crate) fn finish(self) -> io::Result<W> {
        self.0.into_inner().map_err(failed)
    }
}
