//! A real browser, driven through its own protocol, as people with a mouse or a keyboard drive it.

use std::io::{BufRead as _, BufReader, Write as _};
use std::path::Path;
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};
use std::time::{Duration, Instant};

use serde_json::{Value, json};
use tempfile::TempDir;

/// Checks pages for accessibility.
const CHECKER: &str = include_str!("../vendor/axe-core/axe.min.js");
/// How long a page may take for anything: the machine may be busy.
const PATIENCE: Duration = Duration::from_secs(60);

pub(crate) struct Browser {
    child: Child,
    to: ChildStdin,
    from: BufReader<ChildStdout>,
    session: Option<String>,
    number: u64,
    events: Vec<Value>,
    _profile: TempDir,
}

impl Browser {
    /// A browser with an empty page; none, and that is said, where none is installed and none is demanded.
    pub(crate) fn start() -> Option<Browser> {
        let names = ["chromium", "chromium-browser", "google-chrome"];
        let there = |name: &&&str| {
            Command::new(name).arg("--version").output().is_ok_and(|said| said.status.success())
        };
        let Some(name) = names.iter().find(there) else {
            assert!(std::env::var_os("YARRUP_NEEDS_BROWSER").is_none(), "no Chromium is installed");
            eprintln!("SKIPPED, AND NOTHING WAS TESTED: no Chromium is installed to open the page in");
            return None;
        };
        let profile = tempfile::tempdir().expect("a folder");
        // The protocol runs over the third and the fourth file, which are the pipes that the shell was given.
        let flags = "--headless=new --no-sandbox --disable-gpu --disable-dev-shm-usage --no-first-run --disable-sync --disable-extensions \
             --disable-background-networking --disable-component-update --remote-debugging-pipe";
        let line = format!(
            "exec {name} {flags} --user-data-dir={} about:blank 3<&0 4>&1 0</dev/null 1>/dev/null 2>/dev/null",
            profile.path().display()
        );
        let mut child = Command::new("sh")
            .args(["-c", &line])
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .spawn()
            .expect("a shell");
        let (to, from) = (child.stdin.take().expect("a pipe"), child.stdout.take().expect("a pipe"));
        let from = BufReader::new(from);
        let mut browser =
            Browser { child, to, from, session: None, number: 0, events: Vec::new(), _profile: profile };
        let targets = browser.call("Target.getTargets", &json!({}));
        let is_page = |target: &&Value| target["type"] == "page";
        let targets = targets["targetInfos"].as_array().expect("targets");
        let page = targets.iter().find(is_page).expect("a page")["targetId"].clone();
        let attached = browser.call("Target.attachToTarget", &json!({ "targetId": page, "flatten": true }));
        browser.session = attached["sessionId"].as_str().map(str::to_owned);
        for domain in ["Page", "Runtime", "Network", "Log"] {
            browser.call(&format!("{domain}.enable"), &json!({}));
        }
        browser.size(1280, 800);
        Some(browser)
    }

    fn call(&mut self, method: &str, parameters: &Value) -> Value {
        self.number += 1;
        let number = self.number;
        let mut message = json!({ "id": number, "method": method, "params": parameters });
        if let Some(session) = &self.session {
            message["sessionId"] = json!(session);
        }
        self.to.write_all(format!("{message}\0").as_bytes()).expect("the browser listens");
        loop {
            let mut answer = Vec::new();
            self.from.read_until(0, &mut answer).expect("the browser answers");
            assert_eq!(answer.pop(), Some(0), "the browser has ended");
            let answer: Value = serde_json::from_slice(&answer).expect("JSON");
            if answer["id"] == number {
                assert!(answer.get("error").is_none(), "{method}: {answer}");
                return answer["result"].clone();
            }
            self.events.push(answer);
        }
    }

    pub(crate) fn size(&mut self, width: u32, height: u32) {
        let size = json!({ "width": width, "height": height, "deviceScaleFactor": 1, "mobile": false });
        self.call("Emulation.setDeviceMetricsOverride", &size);
    }

    /// Opens a page and waits until `ready` holds. Returns how long that took.
    #[track_caller]
    pub(crate) fn open(&mut self, page: &Path, ready: &str) -> Duration {
        self.events.clear();
        let begun = Instant::now();
        self.call("Page.navigate", &json!({ "url": format!("file://{}", page.display()) }));
        self.wait(ready);
        begun.elapsed()
    }

    /// What an expression gives, or what it promises.
    #[track_caller]
    pub(crate) fn value(&mut self, script: &str) -> Value {
        let asked = json!({ "expression": script, "awaitPromise": true, "returnByValue": true });
        let given = self.call("Runtime.evaluate", &asked);
        assert!(given.get("exceptionDetails").is_none(), "{script}: {given}");
        given["result"]["value"].clone()
    }

    /// As [`Browser::value`], for a text.
    #[track_caller]
    pub(crate) fn text(&mut self, script: &str) -> String {
        let value = self.value(script);
        value.as_str().unwrap_or_else(|| panic!("{script}: {value}")).to_owned()
    }

    /// Waits until something holds.
    #[track_caller]
    pub(crate) fn wait(&mut self, condition: &str) {
        let begun = Instant::now();
        let asked =
            format!("(() => {{ try {{ return Boolean({condition}); }} catch {{ return false; }} }})()");
        while self.value(&asked) != json!(true) {
            assert!(begun.elapsed() < PATIENCE, "never so: {condition}; {:?}", self.complaints());
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    /// The middle of an element, which is brought into view, once it stands still and nothing lies over it.
    #[track_caller]
    fn middle(&mut self, element: &str) -> (f64, f64) {
        let place = self.value(&format!(
            "(async () => {{ let last = null; for (let look = 0; look < 200; look += 1) {{ \
               const found = {element}; found.scrollIntoView({{ block: 'center' }}); \
               await new Promise((seen) => requestAnimationFrame(() => requestAnimationFrame(seen))); \
               const box = found.getBoundingClientRect(); \
               const [x, y] = [box.left + box.width / 2, box.top + box.height / 2]; \
               const on_top = document.elementFromPoint(x, y); \
               const is_there = found.isConnected && on_top && (found.contains(on_top) || on_top.contains(found)); \
               if (is_there && last && last[0] === x && last[1] === y) {{ return [x, y]; }} \
               last = [x, y]; }} return last; }})()"
        ));
        (place[0].as_f64().expect("a place"), place[1].as_f64().expect("a place"))
    }

    fn mouse(&mut self, kind: &str, (x, y): (f64, f64), clicks: u32) {
        let held = if kind == "mouseMoved" && clicks == 0 { "none" } else { "left" };
        let event = json!({ "type": kind, "x": x, "y": y, "button": held, "buttons": clicks.min(1), "clickCount": clicks });
        self.call("Input.dispatchMouseEvent", &event);
    }

    /// Moves the mouse to an element.
    #[track_caller]
    pub(crate) fn point(&mut self, element: &str) {
        let place = self.middle(element);
        self.mouse("mouseMoved", place, 0);
    }

    /// Clicks an element.
    #[track_caller]
    pub(crate) fn click(&mut self, element: &str) {
        let place = self.middle(element);
        self.mouse("mouseMoved", place, 0);
        self.mouse("mousePressed", place, 1);
        self.mouse("mouseReleased", place, 1);
    }

    /// Moves the mouse to a place that an expression gives, as an array.
    #[track_caller]
    pub(crate) fn point_at(&mut self, place: &str) -> (f64, f64) {
        let place = self.value(place);
        let place = (place[0].as_f64().expect("a place"), place[1].as_f64().expect("a place"));
        self.mouse("mouseMoved", place, 0);
        place
    }

    pub(crate) fn click_at(&mut self, place: (f64, f64), clicks: u32) {
        for click in 1..=clicks {
            self.mouse("mousePressed", place, click);
            self.mouse("mouseReleased", place, click);
        }
    }

    /// Drags from the middle of an element by so many pixels.
    #[track_caller]
    pub(crate) fn drag(&mut self, element: &str, (right, down): (f64, f64)) {
        let (x, y) = self.middle(element);
        self.mouse("mouseMoved", (x, y), 0);
        self.mouse("mousePressed", (x, y), 1);
        for step in 1..=5 {
            let part = f64::from(step) / 5.0;
            self.mouse("mouseMoved", (x + right * part, y + down * part), 1);
        }
        self.mouse("mouseReleased", (x + right, y + down), 1);
    }

    /// Presses a key by its name.
    pub(crate) fn key(&mut self, key: &str) {
        let (code, text) = match key {
            "Enter" => (13, "\r"),
            "Tab" => (9, ""),
            "Escape" => (27, ""),
            "ArrowDown" => (40, ""),
            "ArrowRight" => (39, ""),
            _ => (0, key),
        };
        for kind in ["keyDown", "keyUp"] {
            let text = if kind == "keyDown" { text } else { "" };
            let event =
                json!({ "type": kind, "key": key, "code": key, "windowsVirtualKeyCode": code, "text": text });
            self.call("Input.dispatchKeyEvent", &event);
        }
    }

    /// Types a text into what has the focus.
    pub(crate) fn typed(&mut self, text: &str) {
        self.call("Input.insertText", &json!({ "text": text }));
    }

    /// What the page said on its console, what it threw, and what it fetched beside itself.
    pub(crate) fn complaints(&mut self) -> Vec<String> {
        let mut documents = 0;
        let told = |event: &Value| {
            let parameters = &event["params"];
            match event["method"].as_str().unwrap_or_default() {
                "Runtime.consoleAPICalled" | "Runtime.exceptionThrown" | "Log.entryAdded" => {
                    Some(event.to_string())
                }
                "Network.requestWillBeSent" => {
                    documents += 1;
                    let is_page = documents == 1 && parameters["type"] == "Document";
                    (!is_page).then(|| format!("fetched {}", parameters["request"]["url"]))
                }
                _ => None,
            }
        };
        self.events.iter().filter_map(told).collect()
    }

    /// What the checker of accessibility finds.
    #[track_caller]
    pub(crate) fn findings(&mut self) -> Vec<String> {
        self.value(&format!("{CHECKER}; true"));
        let found = self.value(
            "axe.run(document, { resultTypes: ['violations'] }).then((result) => result.violations.map((one) => one.id + ': ' + \
             one.nodes.slice(0, 4).map((node) => node.target.join(' ') + ' ' + node.failureSummary).join(' | ')))",
        );
        found.as_array().expect("a list").iter().map(|one| one.to_string()).collect()
    }

    /// The page as it is printed, as PDF in base64.
    pub(crate) fn printed(&mut self) -> String {
        let printed = self.call("Page.printToPDF", &json!({}));
        printed["data"].as_str().unwrap_or_default().to_owned()
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
