use crate::home::Home;

#[test]
fn the_demo_is_written_run_and_explained() {
    let home = Home::new();
    let out = home.done("demo --into saltmere");
    assert!(out.contains("49 files written to saltmere"), "{out}");
    for run in ["notes", "reports", "cards", "all"] {
        assert!(home.path(&format!("saltmere/runs/{run}/report.html")).exists());
    }
    // Every command of the tour works as printed.
    let program = env!("CARGO_BIN_EXE_yarrup");
    let commands: Vec<&str> =
        out.lines().map(str::trim).filter_map(|line| line.strip_prefix(program)).collect();
    assert!(commands.len() >= 10, "{out}");
    assert!(out.contains("312 documents in 36 files"), "{out}");
    for command in commands {
        let (arguments, input) = command.split_once(" < ").unwrap_or((command, ""));
        let (arguments, quoted) = arguments.split_once('"').unwrap_or((arguments, ""));
        let quoted: Vec<&str> = quoted.strip_suffix('"').into_iter().collect();
        let input = if input.is_empty() { Vec::new() } else { home.read(input).into_bytes() };
        let said = home.yarrup_with(arguments, &quoted, &input);
        let expected = if arguments.contains("wrong-order") { 1 } else { 0 };
        assert_eq!(said.code, Some(expected), "{command}: {said:?}");
        assert!(
            !said.out.is_empty() || said.err.contains("drawn anew") || said.err.contains("cloud.png"),
            "{command}"
        );
    }
}

#[test]
fn the_demo_overwrites_nothing() {
    let home = Home::new().file("yarrup-demo/mine.txt", "mine");
    let err = home.refused("demo");
    assert!(
        err.contains("yarrup-demo: is there already, and is left as it is; choose another place with --into"),
        "{err}"
    );
    assert_eq!(home.names("yarrup-demo"), ["mine.txt"]);
}
