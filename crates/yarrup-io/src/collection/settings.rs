//! What can be said of a source, on the command line and in collection files alike: one list for both.

use std::path::{Path, PathBuf};

use crate::collection::SourceSpec;
use crate::documents::{Format, Patterns, ReadOptions, SeparatorLine, Unit, pattern};
use crate::record::{Condition, FieldType};
use crate::registry::FORMATS;

/// What the value of a setting is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SettingShape {
    /// One text.
    Text,
    /// One or several texts.
    Texts,
    /// `true` or `false`.
    Truth,
    /// A whole number.
    Number,
    /// `true` or `false`, or a whole number.
    TruthOrNumber,
    /// Names with a text each: a table in a file, `NAME=TEXT` on the command line.
    Pairs,
}

/// Something that can be said of a source.
pub struct Setting {
    /// Its name in collection files; with hyphens for underscores, the name of the option.
    pub name: &'static str,
    /// What its value is.
    pub shape: SettingShape,
    /// What it means, as a sentence without its end.
    pub about: &'static str,
    /// An example of a value, as it stands in a collection file.
    pub example: &'static str,
    set: fn(&mut SourceSpec, Vec<String>) -> Result<(), String>,
    get: fn(&SourceSpec) -> Vec<String>,
}

fn one(values: Vec<String>) -> String {
    values.into_iter().next().unwrap_or_default()
}

fn some(value: Option<impl ToString>) -> Vec<String> {
    value.map(|value| value.to_string()).into_iter().collect()
}

fn truth(value: &str) -> bool {
    value == "true"
}

fn if_true(value: bool) -> Vec<String> {
    some(value.then_some("true"))
}

fn number(values: Vec<String>) -> Result<Option<u64>, String> {
    let value = one(values);
    value.parse().map(Some).map_err(|_| format!("`{value}` is not a whole number"))
}

fn path(path: Option<&PathBuf>) -> Vec<String> {
    some(path.map(|path| path.display().to_string()))
}

/// `NAME=TEXT`.
fn pair(written: &str) -> Result<(String, &str), String> {
    let (name, value) = written.split_once('=').ok_or_else(|| format!("`{written}` is not NAME=VALUE"))?;
    Ok((name.trim().to_owned(), value.trim()))
}

fn separator(value: &str) -> Result<u8, String> {
    match value {
        "tab" | "\\t" => Ok(b'\t'),
        _ => match value.as_bytes() {
            [byte] if byte.is_ascii() && !matches!(byte, b'"' | b'\n' | b'\r') => Ok(*byte),
            _ => Err(format!("`{value}` is not one ASCII character, or `tab`")),
        },
    }
}

/// Sizes as people write them: `500MB`, `2 GB`, `1000000`.
fn size(value: &str) -> Result<u64, String> {
    let wrong = || format!("`{value}` is not a size such as `500MB` or `2GB`");
    let lower = value.trim().to_ascii_lowercase();
    let end = lower.find(|c: char| !c.is_ascii_digit()).unwrap_or(lower.len());
    let number: u64 = lower[..end].parse().map_err(|_| wrong())?;
    let unit = match lower[end..].trim() {
        "" | "b" => 1,
        "k" | "kb" => 1_000,
        "m" | "mb" => 1_000_000,
        "g" | "gb" => 1_000_000_000,
        _ => return Err(wrong()),
    };
    number.checked_mul(unit).ok_or_else(wrong)
}

fn listed<T: Copy>(names: &[(&'static str, T)], value: &str) -> Result<T, String> {
    names.iter().find(|(name, _)| *name == value).map(|(_, found)| *found).ok_or_else(|| {
        let known: Vec<_> = names.iter().map(|(name, _)| format!("`{name}`")).collect();
        format!("no `{value}`; there are {}", known.join(", "))
    })
}

/// Everything that can be said of a source.
pub static SETTINGS: &[Setting] = &[
    Setting {
        name: "text",
        shape: SettingShape::Texts,
        about: "the field that is the text, as a path into nested objects; several are joined by blank lines",
        example: "\"ticket.body\"",
        set: |spec, values| {
            spec.selection.text = values;
            Ok(())
        },
        get: |spec| spec.selection.text.clone(),
    },
    Setting {
        name: "id",
        shape: SettingShape::Text,
        about: "the field that is the id [default: `id`, or if there is none, made from file and place]",
        example: "\"card\"",
        set: |spec, values| {
            spec.selection.id = Some(one(values));
            Ok(())
        },
        get: |spec| some(spec.selection.id.as_ref()),
    },
    Setting {
        name: "title",
        shape: SettingShape::Text,
        about: "the field that is the title",
        example: "\"site\"",
        set: |spec, values| {
            spec.selection.title = Some(one(values));
            Ok(())
        },
        get: |spec| some(spec.selection.title.as_ref()),
    },
    Setting {
        name: "where",
        shape: SettingShape::Texts,
        about: "take only documents that meet this condition, such as `rating <= 2`, `language = en`, `site ~ ^North`, `note is empty`, joined by `and`, `or`, `not` and parentheses; if there are several, all must be met",
        example: "[\"rating <= 2\", \"language = en\"]",
        set: |spec, values| {
            spec.selection.conditions =
                values.iter().map(|value| Condition::read(value)).collect::<Result<_, _>>()?;
            Ok(())
        },
        get: |spec| spec.selection.conditions.iter().map(ToString::to_string).collect(),
    },
    Setting {
        name: "derive",
        shape: SettingShape::Pairs,
        about: "a new field that is true if a condition is met",
        example: "{ low = \"rating <= 2\" }",
        set: |spec, values| {
            spec.selection.derived = values
                .iter()
                .map(|value| {
                    let (name, condition) = pair(value)?;
                    Ok((name, Condition::read(condition)?))
                })
                .collect::<Result<_, String>>()?;
            Ok(())
        },
        get: |spec| {
            spec.selection.derived.iter().map(|(name, condition)| format!("{name}={condition}")).collect()
        },
    },
    Setting {
        name: "types",
        shape: SettingShape::Pairs,
        about: "the type of a field, if it is detected wrongly: text, whole, number, truth or date",
        example: "{ postcode = \"text\" }",
        set: |spec, values| {
            spec.selection.types = values
                .iter()
                .map(|value| {
                    let (name, kind) = pair(value)?;
                    Ok((name, listed(&FieldType::NAMES, kind)?))
                })
                .collect::<Result<_, String>>()?;
            Ok(())
        },
        get: |spec| {
            spec.selection.types.iter().map(|(name, kind)| format!("{name}={}", kind.name())).collect()
        },
    },
    Setting {
        name: "as",
        shape: SettingShape::Text,
        about: "read it as this format, whatever its name and content are",
        example: "\"csv\"",
        set: |spec, values| {
            let value = one(values);
            let format = FORMATS.named(&value).ok_or_else(|| {
                let names: Vec<_> = FORMATS.all().map(|format| format!("`{}`", format.name())).collect();
                format!("no format `{value}`; there are {}", names.join(", "))
            })?;
            spec.options.format = Some(format);
            Ok(())
        },
        get: |spec| some(spec.options.format.map(Format::name)),
    },
    Setting {
        name: "language_field",
        shape: SettingShape::Text,
        about: "the path of the field that names the language of a document, if it is not `language`",
        example: "\"lang\"",
        set: |spec, values| {
            spec.selection.language = Some(one(values));
            Ok(())
        },
        get: |spec| some(spec.selection.language.as_ref()),
    },
    Setting {
        name: "detect_language",
        shape: SettingShape::Truth,
        about: "adds a field `language` to documents that have none, with the detected language, `mul` if two languages each have a quarter of the text or more, or `null`",
        example: "true",
        set: |spec, values| {
            spec.selection.detects_language = truth(&one(values));
            Ok(())
        },
        get: |spec| if_true(spec.selection.detects_language),
    },
    Setting {
        name: "file_fields",
        shape: SettingShape::Truth,
        about: "adds the fields `file` (the name of the file of a document) and `folder` (the folders it lies in, below the source), to group documents by them",
        example: "true",
        set: |spec, values| {
            spec.selection.names_files = truth(&one(values));
            Ok(())
        },
        get: |spec| if_true(spec.selection.names_files),
    },
    Setting {
        name: "each",
        shape: SettingShape::Text,
        about: "what a document is: file, line, paragraph, section, page, chapter, row, cell or message",
        example: "\"paragraph\"",
        set: |spec, values| {
            spec.options.unit = Some(listed(&Unit::NAMES, &one(values))?);
            Ok(())
        },
        get: |spec| some(spec.options.unit.map(Unit::name)),
    },
    Setting {
        name: "heading",
        shape: SettingShape::Text,
        about: "a regular expression for the heading lines of sections; sets `each` to section",
        example: "\"^Chapter \\\\d+\"",
        set: |spec, values| {
            spec.options.heading = Some(pattern(&one(values))?);
            spec.options.unit = Some(Unit::Section);
            Ok(())
        },
        get: |spec| some(spec.options.heading.as_ref()),
    },
    Setting {
        name: "separator_line",
        shape: SettingShape::Text,
        about: "the line between two documents in a plain text, such as `%`, or a regular expression for it that begins with `^`",
        example: "\"%\"",
        set: |spec, values| {
            spec.options.separator_line = Some(SeparatorLine::new(&one(values))?);
            Ok(())
        },
        get: |spec| some(spec.options.separator_line.as_ref()),
    },
    Setting {
        name: "encoding",
        shape: SettingShape::Text,
        about: "the encoding of text, if it is detected wrongly",
        example: "\"latin1\"",
        set: |spec, values| {
            spec.options.encoding = Some(ReadOptions::encoding_named(&one(values))?);
            Ok(())
        },
        get: |spec| some(spec.options.encoding.map(encoding_rs::Encoding::name)),
    },
    Setting {
        name: "separator",
        shape: SettingShape::Text,
        about: "the separator between the cells of a table: one character, or `tab`",
        example: "\";\"",
        set: |spec, values| {
            spec.options.separator = Some(separator(&one(values))?);
            Ok(())
        },
        get: |spec| {
            some(spec.options.separator.map(|byte| match byte {
                b'\t' => "tab".to_owned(),
                other => char::from(other).to_string(),
            }))
        },
    },
    Setting {
        name: "header",
        shape: SettingShape::TruthOrNumber,
        about: "whether the first row of a table has the names of the columns, or the number of the row that has them",
        example: "false",
        set: |spec, values| {
            spec.options.header = Some(one(values).parse()?);
            Ok(())
        },
        get: |spec| some(spec.options.header),
    },
    Setting {
        name: "sheet",
        shape: SettingShape::Text,
        about: "the sheet of a spreadsheet [default: all]",
        example: "\"2031\"",
        set: |spec, values| {
            spec.options.sheet = Some(one(values));
            Ok(())
        },
        get: |spec| some(spec.options.sheet.as_ref()),
    },
    Setting {
        name: "column",
        shape: SettingShape::Text,
        about: "the column of a spreadsheet in which each cell is a document; sets `each` to cell",
        example: "\"remark\"",
        set: |spec, values| {
            spec.options.column = Some(one(values));
            spec.options.unit = Some(Unit::Cell);
            Ok(())
        },
        get: |spec| some(spec.options.column.as_ref()),
    },
    Setting {
        name: "table",
        shape: SettingShape::Text,
        about: "the table of a database",
        example: "\"notes\"",
        set: |spec, values| {
            spec.options.table = Some(one(values));
            Ok(())
        },
        get: |spec| some(spec.options.table.as_ref()),
    },
    Setting {
        name: "query",
        shape: SettingShape::Text,
        about: "a database query; its rows are the documents",
        example: "\"SELECT id, body FROM notes WHERE year = 2031\"",
        set: |spec, values| {
            spec.options.query = Some(one(values));
            Ok(())
        },
        get: |spec| some(spec.options.query.as_ref()),
    },
    Setting {
        name: "records",
        shape: SettingShape::Text,
        about: "where the records are: the path of the array in a JSON file that is one large object, or the name or path of the elements in XML",
        example: "\"data.posts\"",
        set: |spec, values| {
            spec.options.records = Some(one(values));
            Ok(())
        },
        get: |spec| some(spec.options.records.as_ref()),
    },
    Setting {
        name: "rejoin",
        shape: SettingShape::Truth,
        about: "rejoin words that are broken at line ends, in PDF and plain text",
        example: "true",
        set: |spec, values| {
            spec.options.rejoin = truth(&one(values));
            Ok(())
        },
        get: |spec| if_true(spec.options.rejoin),
    },
    Setting {
        name: "without_menus",
        shape: SettingShape::Truth,
        about: "leave menus, and the headers and footers of the site, out of the text of HTML pages; they go into the field `menus`",
        example: "true",
        set: |spec, values| {
            spec.options.without_menus = truth(&one(values));
            Ok(())
        },
        get: |spec| if_true(spec.options.without_menus),
    },
    Setting {
        name: "include",
        shape: SettingShape::Texts,
        about: "in a folder, an archive or a listing, read only files with these names or paths",
        example: "[\"*.txt\", \"2031/**\"]",
        set: |spec, values| {
            spec.options.include = Patterns::read(&values)?;
            Ok(())
        },
        get: |spec| spec.options.include.written.clone(),
    },
    Setting {
        name: "exclude",
        shape: SettingShape::Texts,
        about: "do not read files with these names or paths",
        example: "[\"draft*\"]",
        set: |spec, values| {
            spec.options.exclude = Patterns::read(&values)?;
            Ok(())
        },
        get: |spec| spec.options.exclude.written.clone(),
    },
    Setting {
        name: "hidden",
        shape: SettingShape::Truth,
        about: "also read hidden files and folders",
        example: "true",
        set: |spec, values| {
            spec.options.hidden = truth(&one(values));
            Ok(())
        },
        get: |spec| if_true(spec.options.hidden),
    },
    Setting {
        name: "trust_archives",
        shape: SettingShape::Truth,
        about: "read archives that unpack to more than 200 times their size",
        example: "true",
        set: |spec, values| {
            spec.options.trust_archives = truth(&one(values));
            Ok(())
        },
        get: |spec| if_true(spec.options.trust_archives),
    },
    Setting {
        name: "trust_files",
        shape: SettingShape::Truth,
        about: "read PDF, office files, Parquet and databases without the separate process that protects from hostile files",
        example: "true",
        set: |spec, values| {
            spec.options.trust_files = truth(&one(values));
            Ok(())
        },
        get: |spec| if_true(spec.options.trust_files),
    },
    Setting {
        name: "file_seconds",
        shape: SettingShape::Number,
        about: "the seconds of processor time that one such file may take [default: 60, and 10 more for each MB]",
        example: "600",
        set: |spec, values| {
            spec.options.file_seconds = number(values)?.map(|seconds| seconds.max(1));
            Ok(())
        },
        get: |spec| some(spec.options.file_seconds),
    },
    Setting {
        name: "file_memory",
        shape: SettingShape::Text,
        about: "the memory that one such file may take [default: 1GB, and 32 times its size, up to 8GB]",
        example: "\"4GB\"",
        set: |spec, values| {
            spec.options.file_memory = Some(size(&one(values))?);
            Ok(())
        },
        get: |spec| some(spec.options.file_memory),
    },
    Setting {
        name: "keep",
        shape: SettingShape::Text,
        about: "keep downloaded files in this folder; files that are there are not downloaded again",
        example: "\"fetched\"",
        set: |spec, values| {
            let folder = one(values);
            spec.options.keep = Some(spec.base.as_deref().unwrap_or(Path::new("")).join(folder));
            Ok(())
        },
        get: |spec| path(spec.options.keep.as_ref()),
    },
    Setting {
        name: "certificates",
        shape: SettingShape::Text,
        about: "a file of certificates (PEM) to trust instead of the usual authorities",
        example: "\"house.pem\"",
        set: |spec, values| {
            spec.options.certificates = Some(spec.base.as_deref().unwrap_or(Path::new("")).join(one(values)));
            Ok(())
        },
        get: |spec| path(spec.options.certificates.as_ref()),
    },
    Setting {
        name: "largest",
        shape: SettingShape::Text,
        about: "the largest size of one download [default: 8GB]",
        example: "\"500MB\"",
        set: |spec, values| {
            spec.options.largest = Some(size(&one(values))?);
            Ok(())
        },
        get: |spec| some(spec.options.largest),
    },
    Setting {
        name: "patience",
        shape: SettingShape::Number,
        about: "the seconds that a server may be silent [default: 30]",
        example: "10",
        set: |spec, values| {
            spec.options.patience = number(values)?.map(|seconds| seconds.max(1));
            Ok(())
        },
        get: |spec| some(spec.options.patience),
    },
    Setting {
        name: "pace",
        shape: SettingShape::Number,
        about: "the milliseconds between two requests for files of a listing [default: 50 on each of four connections; none on this machine]",
        example: "200",
        set: |spec, values| {
            spec.options.pace = number(values)?;
            Ok(())
        },
        get: |spec| some(spec.options.pace),
    },
];

/// The setting of this name, with underscores or hyphens.
pub(super) fn setting(name: &str) -> Option<&'static Setting> {
    SETTINGS.iter().find(|setting| setting.name == name.replace('-', "_"))
}

impl Setting {
    /// Its value in a source, as it would be written; empty if it is not set.
    pub(super) fn get(&self, spec: &SourceSpec) -> Vec<String> {
        (self.get)(spec)
    }

    pub(super) fn set(&self, spec: &mut SourceSpec, values: Vec<String>) -> Result<(), String> {
        (self.set)(spec, values)
    }
}

impl SourceSpec {
    /// Sets what is called `name` here and in collection files. Nothing happens without a value.
    ///
    /// # Errors
    ///
    /// What is wrong with the value, or that there is no such setting.
    pub fn set(&mut self, name: &str, values: Vec<String>) -> Result<(), String> {
        if values.is_empty() {
            return Ok(());
        }
        setting(name).ok_or_else(|| format!("no setting `{name}`"))?.set(self, values)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_example_can_be_set_and_is_given_back() {
        for setting in SETTINGS {
            let example: toml::Table =
                toml::from_str(&format!("x = {}", setting.example)).expect(setting.name);
            let values: Vec<String> = match &example["x"] {
                toml::Value::Array(values) => {
                    values.iter().filter_map(|v| v.as_str().map(str::to_owned)).collect()
                }
                toml::Value::Table(pairs) => pairs
                    .iter()
                    .map(|(name, value)| format!("{name}={}", value.as_str().unwrap_or_default()))
                    .collect(),
                toml::Value::String(text) => vec![text.clone()],
                other => vec![other.to_string()],
            };
            let mut spec = SourceSpec::at("x");
            setting.set(&mut spec, values.clone()).expect(setting.name);
            let back = setting.get(&spec);
            assert!(!back.is_empty(), "{}", setting.name);
            let mut again = SourceSpec::at("x");
            setting.set(&mut again, back.clone()).expect(setting.name);
            assert_eq!(setting.get(&again), back, "{}", setting.name);
        }
    }

    #[test]
    fn wrong_values_are_told() {
        let mut spec = SourceSpec::at("x");
        for (name, value, told) in [
            ("as", "docs", "no format `docs`"),
            ("each", "verse", "no `verse`; there are `file`"),
            ("separator", "ab", "`ab` is not one ASCII character"),
            ("largest", "big", "`big` is not a size"),
            ("types", "a=b", "no `b`; there are `text`"),
            ("derive", "low", "`low` is not NAME=VALUE"),
            ("encoding", "klingon", "no encoding `klingon`"),
        ] {
            let error = spec.set(name, vec![value.to_owned()]).expect_err(name);
            assert!(error.starts_with(told), "{error}");
        }
        assert_eq!(size("2 GB"), Ok(2_000_000_000));
    }
}
