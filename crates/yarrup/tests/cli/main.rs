//! The built program on files in temporary folders, seen as its users see it.

mod bad_input;
mod belief;
mod check;
mod collection;
mod conditions;
mod demo;
mod documents;
mod exact;
mod formats;
mod forms;
mod home;
mod hostile_files;
mod hostile_text;
mod look;
mod pipe;
mod reference;
mod routes;
mod run;
mod sources;
mod start;
mod study;
mod try_out;
mod web;
mod writing;
