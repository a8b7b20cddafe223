//! Password files, as PostgreSQL's manual describes them ("The Password File").

use std::fs;
use std::path::PathBuf;

/// The password that the user's password file has for a database; none if there is no such file or line.
pub(super) fn of(host: &str, port: u16, database: &str, user: &str) -> Result<Option<String>, String> {
    let asked_for = std::env::var_os("PGPASSFILE").filter(|path| !path.is_empty()).map(PathBuf::from);
    let usual = || std::env::var_os("HOME").map(|home| PathBuf::from(home).join(".pgpass"));
    let Some(path) = asked_for.clone().or_else(usual) else { return Ok(None) };
    let refused = |why: &dyn std::fmt::Display| format!("the password file {}: {why}", path.display());
    let content = match fs::read_to_string(&path) {
        Ok(content) => content,
        Err(why) if asked_for.is_some() => return Err(refused(&why)),
        Err(_) => return Ok(None),
    };
    let found = matching(&content, [host, &port.to_string(), database, user]);
    if found.is_some() && others_may_read(&path) {
        return Err(refused(&"other users can read it; take that right away with `chmod 600`"));
    }
    Ok(found)
}

#[cfg(unix)]
fn others_may_read(path: &std::path::Path) -> bool {
    use std::os::unix::fs::PermissionsExt;
    fs::metadata(path).is_ok_and(|meta| meta.permissions().mode() & 0o077 != 0)
}

#[cfg(not(unix))]
fn others_may_read(_path: &std::path::Path) -> bool {
    false
}

/// The password of the first line that fits: `host:port:database:user:password`, where `*` fits anything and `\` takes a sign as it is.
fn matching(content: &str, wanted: [&str; 4]) -> Option<String> {
    content.lines().filter(|line| !line.trim_start().starts_with('#')).find_map(|line| {
        let (mut fields, mut field, mut signs) = (Vec::new(), String::new(), line.chars());
        while let Some(sign) = signs.next() {
            match sign {
                '\\' => field.extend(signs.next()),
                ':' if fields.len() < 4 => fields.push(std::mem::take(&mut field)),
                sign => field.push(sign),
            }
        }
        let fits = fields.len() == 4
            && fields.iter().zip(wanted).all(|(field, wanted)| field == "*" || field == wanted);
        fits.then_some(field)
    })
}

#[cfg(test)]
mod tests {
    use super::matching;

    #[test]
    fn the_first_line_that_fits_has_the_password() {
        let file = "# ours\ndb:5432:other:warden:no\ndb\\:1:*:*:*:colon\n*:5433:salt\\\\mere:warden:p:w\\\\d\n*:*:*:*:last";
        for (wanted, password) in [
            (["db", "5433", "salt\\mere", "warden"], Some("p:w\\d")),
            (["db:1", "5432", "x", "y"], Some("colon")),
            (["db", "5432", "saltmere", "warden"], Some("last")),
        ] {
            assert_eq!(matching(file, wanted).as_deref(), password);
        }
        assert_eq!(matching("db:5432:x", ["db", "5432", "x", "y"]), None);
    }
}
