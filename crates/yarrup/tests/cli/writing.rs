//! What is on the disk is whole, and what stood there is there still: whatever appears, whoever kills, whatever is full.

use std::fs;
use std::io::{Read as _, Write as _};
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::thread;
use std::time::{Duration, Instant};

use crate::home::Home;

/// A run that has begun to write and waits for the end of its standard input.
fn waiting_run(home: &Home, arguments: &str) -> Child {
    let mut child = home
        .command(arguments)
        .env("TMPDIR", home.path("tmp"))
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("the program starts");
    let input = child.stdin.as_mut().expect("its input");
    input.write_all(b"The terns are nesting\n").expect("written");
    input.flush().expect("written");
    within(Duration::from_secs(30), || {
        home.names(".").iter().any(|name| name.contains(".unfinished-"))
            || child.try_wait().expect("known").is_some()
    });
    child
}

fn within(time: Duration, mut happens: impl FnMut() -> bool) {
    let begun = Instant::now();
    while !happens() {
        assert!(begun.elapsed() < time, "it does not happen");
        thread::sleep(Duration::from_millis(5));
    }
}

/// Ends its input, and returns its exit code and what it said on standard error.
fn ended(mut child: Child) -> (Option<i32>, String) {
    drop(child.stdin.take());
    let output = child.wait_with_output().expect("it ends");
    (output.status.code(), String::from_utf8_lossy(&output.stderr).into_owned())
}

fn home() -> Home {
    let home = Home::with_recipe().file("note.txt", "The terns are nesting on the spit\n");
    fs::create_dir(home.path("tmp")).expect("a folder");
    home
}

/// The names in the home, without the folder for temporary files.
fn names(home: &Home) -> Vec<String> {
    let mut names = home.names(".");
    names.retain(|name| name != "tmp");
    names
}

#[test]
fn a_folder_that_appears_while_the_run_works_stays() {
    let home = home();
    let child = waiting_run(&home, "run recipe.toml - --out run");
    fs::create_dir(home.path("run")).expect("a folder");
    fs::write(home.path("run/thesis.txt"), "years of work").expect("written");
    let (code, err) = ended(child);
    assert_eq!(code, Some(2), "{err}");
    assert!(
        err.contains("run: appeared while the run worked") && err.contains("stands whole at run-2"),
        "{err}"
    );
    assert_eq!(home.names("run"), ["thesis.txt"]);
    assert!(home.done("terms run-2").contains("tern"));
    assert_eq!(names(&home), ["note.txt", "recipe.toml", "run", "run-2"]);
}

#[test]
fn of_two_runs_to_one_place_the_second_fails_at_once() {
    let home = home();
    home.done("run recipe.toml note.txt --out run");
    let first = waiting_run(&home, "run recipe.toml - --out run --replace");
    let begun = Instant::now();
    let err = home.refused("run recipe.toml note.txt --out run --replace");
    assert!(err.contains("run: another yarrup is writing a run to this place"), "{err}");
    assert!(begun.elapsed() < Duration::from_secs(20));
    let (code, err) = ended(first);
    assert_eq!(code, Some(0), "{err}");
    assert_eq!(names(&home), ["note.txt", "recipe.toml", "run"]);
}

#[test]
fn only_runs_are_replaced_and_only_with_nothing_else_in_them() {
    let home = home();
    fs::create_dir(home.path("thesis")).expect("a folder");
    fs::write(home.path("thesis/run.json"), "{\"chapter\": 1}").expect("written");
    let err = home.refused("run recipe.toml note.txt --out thesis --replace");
    assert!(err.contains("thesis: is not a run folder and will not be replaced"), "{err}");
    home.done("run recipe.toml note.txt --out run");
    fs::write(home.path("run/notes on it.txt"), "mine").expect("written");
    let err = home.refused("run recipe.toml note.txt --out run --replace");
    assert!(err.contains("run: holds `notes on it.txt`, which no run wrote"), "{err}");
    fs::remove_file(home.path("run/notes on it.txt")).expect("removed");
    home.done("run recipe.toml note.txt --out run --replace");
    // Redrawing it makes it no other run.
    home.done("redraw run");
    home.done("run recipe.toml note.txt --out run --replace");
    assert_eq!(names(&home), ["note.txt", "recipe.toml", "run", "thesis"]);
}

#[cfg(unix)]
#[test]
fn interrupted_programs_take_away_what_is_unfinished() {
    for (signal, code) in [("INT", 130), ("TERM", 143), ("HUP", 129)] {
        let home = home();
        // What is learned is read twice: standard input is put aside for that.
        let home = home.file("learn.toml", "[[step]]\ndo = \"limit\"\ntop = 3\n");
        for recipe in ["recipe.toml", "learn.toml"] {
            let mut child = waiting_run(&home, &format!("run {recipe} - --out run"));
            if recipe == "learn.toml" {
                within(Duration::from_secs(20), || !home.names("tmp").is_empty());
            }
            let kill = Command::new("kill").args(["-s", signal, &child.id().to_string()]).status();
            assert!(kill.expect("a command").success());
            let status = child.wait().expect("it ends");
            assert_eq!(status.code(), Some(code), "{signal}");
            assert_eq!(names(&home), ["learn.toml", "note.txt", "recipe.toml"], "{signal} {recipe}");
            assert_eq!(home.names("tmp"), Vec::<String>::new(), "{signal} {recipe}");
        }
    }
}

#[test]
fn files_are_refused_where_something_is_and_never_cut_off() {
    let home = home()
        .file("cards.csv", "card,comment\n1,The terns are nesting again this year\n")
        .file(
            "bank.conllu",
            "1\tterns\ttern\tNOUN\t_\t_\t_\t_\t_\t_\n2\tnest\tnest\tVERB\t_\t_\t_\t_\t_\t_\n\n",
        )
        .file("mine.txt", "mine");
    home.done("run recipe.toml note.txt --out run");
    let documents = home.read("run/documents.jsonl");
    for (command, told) in [
        ("new mine.txt --for posts", "mine.txt: is there already"),
        ("look cards.csv --save mine.txt", "mine.txt: is there already"),
        ("learn bank.conllu --out mine.txt", "mine.txt: is there already"),
        ("learn bank.conllu --folds 2 --predictions mine.txt", "mine.txt: is there already"),
        ("export run --as conllu --out mine.txt", "mine.txt: is there already"),
        ("export run --as conllu --out run/documents.jsonl", "run/documents.jsonl: lies in the run folder"),
        (
            "export run --as conllu --out run/documents.jsonl --replace",
            "run/documents.jsonl: lies in the run folder",
        ),
        ("export run --as conllu --out run", "run"),
        ("export run --as conllu --out nowhere/deep/../x/", "x"),
        ("demo --into mine.txt", "mine.txt: is there already"),
    ] {
        let err = home.refused(command);
        assert!(err.contains(told), "{command}: {err}");
        assert_eq!(home.read("mine.txt"), "mine", "{command}");
    }
    assert_eq!(home.read("run/documents.jsonl"), documents);
    for command in [
        "new mine.txt --for posts --replace",
        "look cards.csv --save mine.txt --replace",
        "learn bank.conllu --out mine.txt --replace",
        "export run --as conllu --out mine.txt --replace",
    ] {
        home.done(command);
        assert_ne!(fs::read(home.path("mine.txt")).expect("a file"), b"mine", "{command}");
        fs::write(home.path("mine.txt"), "mine").expect("written");
    }
}

#[cfg(unix)]
#[test]
fn a_limit_on_the_size_of_files_costs_nothing_that_was_there() {
    let wrong = "[[step]]\ndo = \"stem\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n";
    let home = home().file("wrong.toml", wrong);
    home.done("run recipe.toml note.txt --out run");
    let before = home.read("run/run.json");
    for command in [
        "check wrong.toml --fix",
        "run recipe.toml note.txt --out run --replace",
        "redraw run",
        "export run --as conllu --out out.conllu",
        "new out.toml --for topics",
        "demo --into out",
    ] {
        // In kB: nothing at all, and less than the largest of their files.
        for blocks in if command.starts_with("check") || command.starts_with("export") { 0..1 } else { 0..2 }
        {
            let program = env!("CARGO_BIN_EXE_yarrup");
            let output = Command::new("bash")
                .arg("-c")
                .arg(format!("ulimit -f {blocks}; exec {program} {command}"))
                .current_dir(home.path("."))
                .output()
                .expect("bash");
            let err = String::from_utf8_lossy(&output.stderr);
            assert_eq!(output.status.code(), Some(2), "{command} with {blocks}: {err}");
            assert!(err.contains("File too large"), "{command} with {blocks}: {err}");
            assert_eq!(home.read("wrong.toml"), wrong);
            assert_eq!(home.read("run/run.json"), before);
            assert_eq!(
                names(&home),
                ["note.txt", "recipe.toml", "run", "wrong.toml"],
                "{command} with {blocks}"
            );
        }
    }
    assert!(home.done("terms run").contains("tern"));
}

/// Whether programs can be traced here. Where they must be, as on the machine that checks every change, it is a failure if they cannot.
fn can_trace() -> bool {
    let traced = Command::new("strace")
        .args(["-o", "/dev/null", "true"])
        .status()
        .is_ok_and(|status| status.success());
    assert!(
        traced || std::env::var_os("YARRUP_NEEDS_STRACE").is_none(),
        "strace is needed and does not work"
    );
    traced
}

/// Kills the command at each call of the system that moves or removes anything, one after the other, and looks at what is left after each.
fn killed_at_every_move(home: &Home, exchanges: bool, command: &str, mut look: impl FnMut(u32)) -> u32 {
    for number in 1.. {
        assert!(number < 200, "it never ends by itself");
        let calls = "rename,renameat,renameat2,link,linkat,unlink,unlinkat,rmdir";
        // A file system on which two places cannot change what they hold.
        let (calls, without) = match exchanges {
            true => (calls.to_owned(), Vec::new()),
            false => (calls.replace("renameat2,", ""), vec!["-e", "inject=renameat2:error=EINVAL"]),
        };
        let status = Command::new("strace")
            .args(["-f", "-q", "-o", "/dev/null", "-e", &format!("trace={calls},renameat2"), "-e"])
            .arg(format!("inject={calls}:signal=SIGKILL:when={number}"))
            .args(without)
            .arg(env!("CARGO_BIN_EXE_yarrup"))
            .args(command.split_whitespace())
            .current_dir(home.path("."))
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .status()
            .expect("strace");
        if status.success() {
            return number - 1;
        }
        look(number);
    }
    0
}

#[cfg(target_os = "linux")]
#[test]
fn a_kill_at_any_move_leaves_the_old_run_or_the_new_one() {
    if !can_trace() {
        return;
    }
    let home = home().file("other.txt", "Gulls rest on the roof\n");
    home.done("run recipe.toml note.txt --out run");
    let mut seen = [false; 2];
    let kills = killed_at_every_move(
        &home,
        true,
        "run recipe.toml other.txt --out run --replace --threads 1",
        |number| {
            let terms = home.done("terms run --format csv");
            let (old, new) = (terms.contains(",tern,"), terms.contains(",gull,"));
            assert!(old != new, "killed at {number}: {terms}");
            seen[usize::from(new)] = true;
            // The next run tidies up, and finds nothing in its way.
            home.done("run recipe.toml note.txt --out run --replace");
            assert_eq!(names(&home), ["note.txt", "other.txt", "recipe.toml", "run"], "killed at {number}");
        },
    );
    assert!(kills >= 10 && seen == [true, true], "{kills} kills, {seen:?}");
}

#[cfg(target_os = "linux")]
#[test]
fn where_places_cannot_be_exchanged_the_next_run_brings_the_old_one_back() {
    if !can_trace() {
        return;
    }
    let home = home().file("other.txt", "Gulls rest on the roof\n");
    home.done("run recipe.toml note.txt --out run");
    let mut was_away = 0;
    let command = "run recipe.toml other.txt --out run --replace --threads 1";
    let kills = killed_at_every_move(&home, false, command, |number| {
        was_away += u32::from(!home.path("run").exists());
        let err = home.refused("run recipe.toml note.txt --out run");
        assert!(err.contains("run: is there already; add --replace"), "killed at {number}: {err}");
        let terms = home.done("terms run --format csv");
        assert!(terms.contains(",tern,") != terms.contains(",gull,"), "killed at {number}: {terms}");
        home.done("run recipe.toml note.txt --out run --replace");
        assert_eq!(names(&home), ["note.txt", "other.txt", "recipe.toml", "run"], "killed at {number}");
    });
    assert!(kills >= 10 && was_away >= 1, "{kills} kills, {was_away} times there was none");
    assert!(home.done("terms run").contains("gull"));
}

#[cfg(target_os = "linux")]
#[test]
fn a_kill_at_any_move_leaves_a_recipe_whole() {
    if !can_trace() {
        return;
    }
    let wrong = "[[step]]\ndo = \"stem\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n";
    let home = home().file("wrong.toml", wrong);
    let mended = {
        home.yarrup("check wrong.toml --fix");
        home.read("wrong.toml")
    };
    assert_ne!(mended, wrong, "there is something to mend");
    fs::write(home.path("wrong.toml"), wrong).expect("written");
    let calls = "rename,renameat,renameat2,link,linkat,unlink,unlinkat,rmdir,fsync";
    for number in 1..20 {
        let status = Command::new("strace")
            .args(["-f", "-q", "-o", "/dev/null", "-e", &format!("trace={calls}"), "-e"])
            .arg(format!("inject={calls}:signal=SIGKILL:when={number}"))
            .arg(env!("CARGO_BIN_EXE_yarrup"))
            .args(["check", "wrong.toml", "--fix"])
            .current_dir(home.path("."))
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .status()
            .expect("strace");
        let now = home.read("wrong.toml");
        assert!(now == wrong || now == mended, "killed at {number}: {now}");
        fs::write(home.path("wrong.toml"), wrong).expect("written");
        if status.code().is_some() {
            home.yarrup("check wrong.toml --fix");
            assert_eq!(names(&home), ["note.txt", "recipe.toml", "wrong.toml"]);
            return;
        }
    }
    panic!("it never ends by itself");
}

#[cfg(target_os = "linux")]
#[test]
fn a_kill_at_random_moments_leaves_nothing_that_looks_whole() {
    let home = home().file("notes.txt", "The terns are nesting on the spit again this year\n".repeat(20_000));
    for milliseconds in [1, 5, 10, 20, 40, 80, 160, 320] {
        let mut child = home
            .command("run recipe.toml notes.txt --each line --out run --replace")
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .expect("the program starts");
        thread::sleep(Duration::from_millis(milliseconds));
        child.kill().expect("killed, or ended");
        child.wait().expect("it ends");
        if home.path("run").exists() {
            assert!(home.done("terms run").contains("tern"), "after {milliseconds} ms");
        }
    }
    home.done("run recipe.toml notes.txt --out run --replace");
    assert_eq!(names(&home), ["note.txt", "notes.txt", "recipe.toml", "run"]);
}

/// Runs a command with a small disk mounted at `disk`; none where this user may not mount.
#[cfg(target_os = "linux")]
fn on_a_small_disk(home: &Home, bytes: u64, command: &str) -> Option<(Option<i32>, String)> {
    fs::create_dir_all(home.path("disk")).expect("a folder");
    let script = format!(
        "mount -t tmpfs -o size={bytes} tmpfs disk || exit 99; {command}; code=$?; ls -A disk >left; exit $code"
    );
    let mut child = Command::new("unshare")
        .args(["--mount", "bash", "-c", &script])
        .current_dir(home.path("."))
        .stdout(Stdio::null())
        .stderr(Stdio::piped())
        .spawn()
        .ok()?;
    let mut err = String::new();
    child.stderr.take().expect("its errors").read_to_string(&mut err).expect("text");
    let code = child.wait().expect("it ends").code();
    (code != Some(99) && !err.contains("unshare failed")).then_some((code, err))
}

#[cfg(target_os = "linux")]
#[test]
fn a_full_disk_is_told_and_nothing_stays_on_it() {
    let home = home().file("notes.txt", "The terns are nesting on the spit again this year\n".repeat(200));
    let program = env!("CARGO_BIN_EXE_yarrup");
    let command = format!("{program} run recipe.toml notes.txt --each line --out disk/run");
    // A place that nothing can take is told before any work.
    let Some((code, err)) = on_a_small_disk(&home, 1 << 20, &command.replace("disk/run", "disk")) else {
        return;
    };
    assert!(
        code == Some(2) && err.contains("disk: is a mount point") && err.contains("--out disk/run"),
        "{err}"
    );
    for kilobytes in [4, 8, 16, 32, 64, 128, 256, 512] {
        let Some((code, err)) = on_a_small_disk(&home, kilobytes << 10, &command) else { return };
        match code {
            Some(0) => assert_eq!(home.read("left").trim(), "run", "{kilobytes} kB"),
            _ => {
                assert!(code == Some(2) && err.contains("No space left on device"), "{kilobytes} kB: {err}");
                assert_eq!(home.read("left"), "", "{kilobytes} kB");
            }
        }
    }
}

#[cfg(target_os = "linux")]
#[test]
fn processes_of_other_containers_are_seen() {
    let home = home();
    let program = env!("CARGO_BIN_EXE_yarrup");
    // Both are process 1 of their own world.
    let inside = |command: &str| {
        let mut command_line = Command::new("unshare");
        command_line.args(["--pid", "--fork", "--kill-child", program]).args(command.split_whitespace());
        command_line
            .current_dir(home.path("."))
            .stdout(Stdio::null())
            .stderr(Stdio::piped())
            .stdin(Stdio::piped());
        command_line
    };
    let Ok(mut first) = inside("run recipe.toml - --out run").spawn() else { return };
    let begun = || home.names(".").iter().any(|name| name.starts_with(".run.unfinished-"));
    while !begun() {
        if first.try_wait().expect("known").is_some() {
            // This user may make no such world.
            return;
        }
        thread::sleep(Duration::from_millis(5));
    }
    let second = inside("run recipe.toml note.txt --out run").output().expect("it runs");
    let err = String::from_utf8_lossy(&second.stderr);
    assert!(second.status.code() == Some(2) && err.contains("another yarrup is writing"), "{err}");
    first.stdin.as_mut().expect("its input").write_all(b"Gulls rest\n").expect("written");
    let (code, err) = ended(first);
    assert_eq!(code, Some(0), "{err}");
    assert!(Path::new(&home.path("run/documents.jsonl")).exists());
    assert_eq!(names(&home), ["note.txt", "recipe.toml", "run"]);
}
