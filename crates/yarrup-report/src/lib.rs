//! What people look at: numbers, tables and bars on the terminal, figures, and the HTML report. Every figure shown is in the
//! records that come in; no view computes one of its own.

mod compare_page;
mod context;
mod explorer;
mod figure;
mod html;
mod look;
mod numbers;
#[cfg(feature = "figures")]
mod png;
#[cfg(not(feature = "figures"))]
#[path = "png_left_out.rs"]
mod png;
mod terminal;
mod views;

pub use compare_page::{ComparePage, compare_html};
pub use context::{ContextLine, context_lines, marked_document};
pub use explorer::{
    DocumentsNamed, Explored, ExplorerPage, PageError, ReportData, RunFacts, SCHEMA, ShownDocument,
    ShownToken, explorer_html,
};
pub use figure::{
    BarRow, CloudShape, CloudWord, Colour, Figure, Fit, FontError, Fonts, Palette, Points, Scale, Style,
    bars_figure, cloud_figure, effect_figure, lengths_figure, points_figure,
};
pub use look::{
    Chosen, DirtRow, DocumentShown, FieldRow, GroupRow, LengthFacts, LookReport, NamedDocument, RepeatedRow,
    SeparatorRow, look_overview, look_text,
};
pub use numbers::{counted, grouped, percent, plural, share, sized};
pub use png::{PngError, png};
pub use terminal::{
    Align, GUTTER, Look, Marked, StepRow, bars, cut, effect_table, excerpt, give_way, in_columns,
    push_json_safe, push_safe, shown, table, visible, visible_name, wrapped,
};
pub use views::{Coverage, coverage, step_rows};
