//! Files that are named by a pattern of their paths.

use std::path::Path;

use globset::GlobBuilder;
use walkdir::WalkDir;

/// The files whose paths match a pattern such as `notes/2031-*/*.jsonl`, in the order of their paths; none if it is no pattern, or something stands at
/// the place that is called so. `**` stands for any folders.
///
/// # Errors
///
/// What is wrong with the pattern, or a folder that cannot be read.
pub fn matching_files(pattern: &str) -> Result<Option<Vec<String>>, String> {
    // In an address such signs are part of it.
    let is_pattern = !pattern.contains("://") && !Path::new(pattern).exists();
    let Some(first) = pattern.find(['*', '?', '[', '{']).filter(|_| is_pattern) else { return Ok(None) };
    let told = |why: globset::Error| format!("`{pattern}` is not a pattern of paths: {}", why.kind());
    // What is before the first sign of the pattern is the way to a folder.
    let (folder, rest) = pattern.split_at(pattern[..first].rfind('/').map_or(0, |slash| slash + 1));
    let matcher = GlobBuilder::new(rest).literal_separator(true).build().map_err(told)?.compile_matcher();
    let deepest = if rest.contains("**") { usize::MAX } else { rest.matches('/').count() + 1 };
    let from = Path::new(if folder.is_empty() { "." } else { folder });
    if !from.is_dir() {
        return Err(format!("there is no folder `{}`, where the pattern `{pattern}` begins", from.display()));
    }
    let mut files = Vec::new();
    for entry in WalkDir::new(from).min_depth(1).max_depth(deepest) {
        let entry = entry.map_err(|why| why.to_string())?;
        let inside = entry.path().strip_prefix(from).unwrap_or(entry.path());
        // A link to a file is one, and no folder is entered by a link.
        if matcher.is_match(inside)
            && entry.path().is_file()
            && let Some(inside) = inside.to_str()
        {
            files.push(format!("{folder}{inside}"));
        }
    }
    files.sort();
    Ok(Some(files))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn files_are_found_by_patterns_of_paths() {
        let home = tempfile::tempdir().expect("a folder");
        for path in ["a/2/x.txt", "a/1/x.txt", "a/1/y.csv", "b/z.txt"] {
            let path = home.path().join(path);
            std::fs::create_dir_all(path.parent().expect("a parent")).expect("a folder");
            std::fs::write(path, "").expect("a file");
        }
        let found = |pattern: &str| -> Option<Vec<String>> {
            let base = format!("{}/", home.path().display());
            let files = matching_files(&format!("{base}{pattern}")).expect("a pattern")?;
            Some(files.iter().filter_map(|file| Some(file.strip_prefix(&base)?.to_owned())).collect())
        };
        assert_eq!(
            found("a/*/x.txt").as_deref(),
            Some(["a/1/x.txt".to_owned(), "a/2/x.txt".to_owned()].as_slice())
        );
        assert_eq!(found("**/*.txt").map(|files| files.len()), Some(3));
        assert_eq!(found("*.txt"), Some(Vec::new()));
        assert_eq!(found("a/1/x.txt"), None);
        assert_eq!(matching_files("https://example.org/notes?day=*"), Ok(None));
        let here = format!("{}/./b/*.txt", home.path().display());
        assert_eq!(matching_files(&here), Ok(Some(vec![here.replace('*', "z")])));
        assert!(matching_files("a/[.txt").is_err());
        assert!(matching_files("nowhere-at-all/*.txt").is_err());
    }
}
