use crate::home::Home;

#[test]
fn a_good_recipe_is_passed_in_silence() {
    let said = Home::with_recipe().yarrup("check recipe.toml");
    assert_eq!(said.out, "recipe.toml: no mistakes, nothing to advise (5 steps)\n");
    assert_eq!(said.code, Some(0));
}

fn wrong_order() -> Home {
    Home::new().file(
        "r.toml",
        "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"erase\"\nclasses = [\"punctuation\"]\nto = \"nothing\"\n\
         [[step]]\ndo = \"stem\"\nmethod = \"porter\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"don't\", \"this\", \"nest\"]\n",
    )
}

#[test]
fn entries_that_can_never_match_are_named_with_step_and_cure() {
    let said = wrong_order().yarrup("check r.toml");
    assert_eq!(said.code, Some(1));
    for told in [
        "warning[unreachable-entries]: 2 of 3 entries can never match here",
        "1 because of step 2 (`erase`): `don't` arrives as `dont`",
        "because of step 4 (`stem`): `this` arrives as `thi`",
        "r.toml:11:6",
        "add `spare = [\"'\"]` to step 2 (`erase`)",
        "move step 5 (`stopwords`) to a place before step 4 (`stem`)",
        "r.toml: no mistakes, 1 warning",
    ] {
        assert!(said.out.contains(told), "{told} in {}", said.out);
    }
}

#[test]
fn advice_comes_as_json_too() {
    let said = wrong_order().yarrup("check r.toml --format json");
    let value: serde_json::Value = serde_json::from_str(&said.out).expect("JSON");
    assert_eq!(said.code, Some(1));
    assert_eq!(value["advice"][0]["code"], "unreachable-entries");
    assert_eq!(value["advice"][0]["entries"][0]["entry"], "don't");
    assert_eq!(value["advice"][0]["entries"][0]["arrives_as"][0], "dont");
    let said = Home::new().file("r.toml", "[[step]]\ndo = \"cases\"\n").yarrup("check r.toml --format json");
    let value: serde_json::Value = serde_json::from_str(&said.out).expect("JSON");
    assert_eq!((said.code, &value["mistakes"][0]["line"]), (Some(2), &serde_json::json!(2)));
}

#[test]
fn the_recipes_of_the_demo_but_one_pass() {
    let home = Home::new();
    home.done("demo --into demo");
    for (recipe, code) in [("topics", 0), ("search", 0), ("wrong-order", 1)] {
        let said = home.yarrup(&format!("check demo/recipes/{recipe}.toml"));
        assert_eq!(said.code, Some(code), "{said:?}");
    }
}
