
use yarrup_core::tag::*;
fn main() {
    for path in std::env::args().skip(1) {
        let mut read = read_conllu(&std::fs::read_to_string(&path).unwrap()).unwrap();
        let mut out = String::new();
        for s in &mut read {
            for w in &mut s.words { w.lemma = Some(english_lemma(&w.form, w.tag.unwrap())); }
            write_conllu(s, &mut out);
        }
        std::fs::write(&path, out).unwrap();
    }
}
