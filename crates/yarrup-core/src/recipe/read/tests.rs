use super::*;
use proptest::prelude::*;

fn faults(text: &str) -> Vec<(String, String)> {
    let faults = read(text).expect_err("the recipe has mistakes");
    faults.into_iter().map(|fault| (fault.title, text[fault.span].to_owned())).collect()
}

#[test]
fn all_mistakes_are_found_at_once_each_in_its_place() {
    let mistaken = "recipes = \"x\"\nlanguage = \"english\"\n[[step]]\ndo = \"stopword\"\n[[step]]\ndo = \"case\"\n\
                to = \"lowercase\"\nspare = \"US\"\n[[step]]\ndo = \"drop\"\nshorter_than = -2\nkind = []\n[[step]]\n\
                label = \"x\"\n";
    let expected = [
        ("unknown key `recipes`", "recipes"),
        ("wrong value for `language`", "\"english\""),
        ("unknown step `stopword`", "\"stopword\""),
        ("wrong value for `to`", "\"lowercase\""),
        ("wrong value for `spare`", "\"US\""),
        ("wrong value for `shorter_than`", "-2"),
        ("unknown key `kind`", "kind"),
    ];
    let found = faults(mistaken);
    for (found, expected) in found.iter().zip(expected) {
        assert_eq!((found.0.as_str(), found.1.as_str()), expected);
    }
    assert_eq!(found.len(), 8);
    assert_eq!(found[7].0, "`do` is missing");
}

#[test]
fn the_nearest_known_name_is_offered() {
    let help = |text: &str| read(text).expect_err("mistaken").remove(0).help;
    assert_eq!(help("[[step]]\ndo = \"stop_word\"\n"), Some("did you mean `stopwords`?".into()));
    assert_eq!(help("[[step]]\ndo = \"case\"\nto = \"uper\"\n"), Some("did you mean `upper`?".into()));
    assert_eq!(help("language = \"gernam\"\n"), Some("did you mean `de`?".into()));
    assert_eq!(
        help("[[step]]\nstem = true\n"),
        Some("say what the step does, such as `do = \"stem\"`".into())
    );
    assert_eq!(
        help("[[step]]\ninclude = \"base.toml\"\n"),
        Some("write `do = \"include\"` and `recipe = \"…\"`".into())
    );
    assert!(help("[[step]]\ndo = \"xyzzy\"\n").is_some_and(|help| help.starts_with("known here: `unicode`")));
}

#[test]
fn broken_toml_does_not_hide_other_mistakes() {
    let found = faults("language = en\n[[step]]\ndo = \"stems\"\n[[step]]\ndo = \"case\"\nto = \"lower\n");
    assert_eq!(found[0].0, "not valid TOML");
    assert!(found.iter().any(|(title, _)| title == "unknown step `stems`"), "{found:?}");
}

#[test]
fn the_order_of_stages_is_kept() {
    let order = |steps: &[&str]| {
        let text: String = steps
            .iter()
            .map(|name| {
                let example = crate::steps::operation(name).map_or("", |operation| operation.example);
                format!("[[step]]\ndo = \"{name}\"\n{example}\n")
            })
            .collect();
        read(&text).err().map(|faults| faults.into_iter().map(|f| f.title).collect::<Vec<_>>())
    };
    assert_eq!(order(&["case", "split", "case", "stem"]), None);
    assert_eq!(order(&["spaces", "stopwords", "stem"]), None);
    assert_eq!(order(&["split", "spaces"]), Some(vec!["`spaces` comes after the split".into()]));
    assert_eq!(order(&["stem", "erase"]), Some(vec!["`erase` comes after the split".into()]));
    assert_eq!(order(&["stem", "split"]), Some(vec!["`stem` comes before `split`".into()]));
    assert_eq!(order(&["split", "split"]), Some(vec!["two `split` steps".into()]));
}

#[test]
fn conditions_and_spared_things_are_read() {
    let text = "spare = { words = [\"no\"], kinds = [\"number\"] }\n[[step]]\ndo = \"case\"\n\
                only = { site.name = [\"spit\", \"hide\"], rating = 3 }\n";
    let recipe = read(text).expect("no mistakes");
    assert_eq!(recipe.spare.kinds, ["number"]);
    let only = recipe.steps[0].only.as_ref().map(|only| only.written().to_owned()).unwrap_or_default();
    for part in ["\"site.name\" in (\"spit\", \"hide\")", "\"rating\" in (\"3\")"] {
        assert!(only.contains(part), "{only}");
    }
}

#[test]
fn an_empty_recipe_is_a_mistake() {
    assert_eq!(faults("")[0].0, "steps are missing");
}

proptest! {
    #[test]
    fn any_text_is_a_recipe_or_a_list_of_mistakes(text in "(\\[\\[step\\]\\]|do|only|spare|=|\"|case|[{}\\[\\],\n a-z0-9]){0,40}") {
        if let Err(faults) = read(&text) {
            prop_assert!(!faults.is_empty());
            for fault in faults {
                prop_assert!(text.get(fault.span.clone()).is_some(), "{:?}", fault);
            }
        }
    }
}
