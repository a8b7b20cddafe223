//! `yarrup schema`: the JSON Schema of recipes, made from the list by which recipes are read; and that of what the page of a run shows.

use std::io::Write;

use serde_json::{Map, Value, json};
use yarrup_core::recipe::{CODES, Code, INCLUDE};
use yarrup_core::step::{KeyFacts, Operation, Shape};
use yarrup_core::{Kind, OPERATIONS, Tag};
use yarrup_report::SCHEMA as REPORT_SCHEMA;

use crate::arguments::{SchemaArguments, SchemaOf};
use crate::failure::{Exit, Failure};
use crate::output;
use crate::screen::Screen;

pub(crate) fn schema(arguments: &SchemaArguments, screen: &Screen) -> Result<Exit, Failure> {
    let mut out = screen.out_as(output::Shape::Json);
    match arguments.of {
        SchemaOf::Recipe => writeln!(out, "{:#}", recipe_schema())?,
        SchemaOf::Report => out.write_all(REPORT_SCHEMA.as_bytes())?,
    }
    out.flush()?;
    Ok(Exit::Done)
}

fn recipe_schema() -> Value {
    let mut steps: Vec<Value> = OPERATIONS.iter().map(|operation| step_schema(operation)).collect();
    steps.push(json!({
        "title": INCLUDE,
        "description": "brings the steps of another recipe in",
        "type": "object",
        "properties": { "do": { "const": INCLUDE }, "recipe": { "type": "string", "description": "the path of the recipe, seen from this one" } },
        "required": ["do", "recipe"],
        "additionalProperties": false,
    }));
    json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "a recipe of yarrup",
        "type": "object",
        "properties": {
            "recipe": { "type": "string", "description": "the recipe's name, for reports" },
            "about": { "type": "string", "description": "what it is for" },
            "language": { "type": "string", "pattern": "^[A-Za-z]{2,3}(-[A-Za-z0-9]+)*$", "description": "the language of the documents, as a tag" },
            "spare": spare(),
            "allow": allow(),
            "step": { "type": "array", "minItems": 1, "items": { "oneOf": steps } },
            "example": { "type": "array", "items": example() },
        },
        "required": ["step"],
        "additionalProperties": false,
    })
}

fn example() -> Value {
    let texts = |about: &str| json!({ "type": "array", "items": { "type": "string" }, "description": about });
    let any: Vec<Value> =
        ["clean", "tokens", "drops", "keeps"].iter().map(|key| json!({ "required": [key] })).collect();
    json!({
        "description": "a text with what the recipe must make of it; `yarrup check` tells whether it does",
        "type": "object",
        "properties": {
            "text": { "type": "string", "description": "the text" },
            "about": { "type": "string", "description": "what the example shows" },
            "fields": { "type": "object", "additionalProperties": { "type": "string" }, "description": "the fields of its document" },
            "clean": { "type": "string", "description": "the cleaned text" },
            "tokens": texts("the terms that are left, in order"),
            "drops": texts("words of the text that must be dropped"),
            "keeps": texts("terms that must be left, or words that must not be dropped"),
        },
        "required": ["text"],
        "anyOf": any,
        "additionalProperties": false,
    })
}

fn spare() -> Value {
    let words = json!({ "type": "array", "items": { "type": "string", "minLength": 1 } });
    json!({
        "description": "what must be left alone: words, kinds, parts of speech, labels",
        "oneOf": [
            words,
            {
                "type": "object",
                "properties": {
                    "words": words,
                    "kinds": { "type": "array", "items": { "enum": Kind::NAMES } },
                    "tags": { "type": "array", "items": { "enum": Tag::NAMES } },
                    "labels": { "type": "array", "items": { "type": "string" } },
                    "match": { "enum": ["any", "all"], "default": "any" },
                },
                "additionalProperties": false,
            },
        ],
    })
}

fn allow() -> Value {
    let code = |code: &Code| json!({ "const": code.name, "description": code.about });
    let codes: Vec<Value> = CODES.iter().map(code).collect();
    json!({ "type": "array", "items": { "oneOf": codes }, "description": "advice that is known and not wanted" })
}

fn step_schema(operation: &Operation) -> Value {
    let mut properties = Map::new();
    properties.insert("do".into(), json!({ "const": operation.name }));
    properties.insert("label".into(), json!({ "type": "string", "description": "a name for reports" }));
    properties.insert("spare".into(), spare());
    properties.insert("allow".into(), allow());
    properties.insert(
        "only".into(),
        json!({ "type": "object", "description": "on which documents it works, by fields" }),
    );
    for key in operation.keys {
        properties.insert(key.name.into(), key_schema(key));
    }
    json!({
        "title": operation.name,
        "description": operation.about,
        "type": "object",
        "properties": properties,
        "required": ["do"],
        "additionalProperties": false,
    })
}

fn key_schema(key: &KeyFacts) -> Value {
    let texts = json!({ "type": "array", "items": { "type": "string" } });
    let list = |columns: &[&str]| {
        let mut properties = Map::new();
        for name in ["file"].iter().chain(columns) {
            properties.insert((*name).into(), json!({ "type": "string" }));
        }
        let file = json!({ "type": "object", "properties": properties, "required": ["file"], "additionalProperties": false });
        json!({ "type": "array", "items": { "oneOf": [{ "type": "string" }, file] } })
    };
    let mut schema = match key.shape {
        Shape::Whole { least, most } => json!({ "type": "integer", "minimum": least, "maximum": most }),
        Shape::OneOf(words) => json!({ "enum": words }),
        Shape::SomeOf(words) => json!({ "type": "array", "items": { "enum": words } }),
        Shape::Truth => json!({ "type": "boolean" }),
        Shape::Text => json!({ "type": "string" }),
        Shape::Texts => texts,
        Shape::Named => json!({ "type": "object", "additionalProperties": { "type": "string" } }),
        Shape::Lists => list(&["column"]),
        Shape::Pairs => list(&["from", "to"]),
        Shape::Rows => list(&[]),
        Shape::Fields => json!({ "type": "object" }),
        Shape::Number => json!({ "type": "number", "minimum": 0 }),
        Shape::Share => json!({ "type": "number", "minimum": 0, "maximum": 1 }),
        Shape::File | Shape::Dictionary { .. } => json!({ "type": "string" }),
    };
    if let Some(object) = schema.as_object_mut() {
        object.insert("description".into(), key.about.into());
        if let Some(default) = key.default {
            let value = match key.shape {
                Shape::Truth => Value::Bool(default == "true"),
                Shape::Whole { .. } => default.parse::<u64>().map_or(Value::Null, Value::from),
                _ => default.into(),
            };
            object.insert("default".into(), value);
        }
    }
    schema
}
