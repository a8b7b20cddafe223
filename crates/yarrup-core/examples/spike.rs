use yarrup_core::tag::*;
fn main() {
    let mut sentences = Vec::new();
    let mut regs = Vec::new();
    for path in std::env::args().skip(1) {
        let read = read_conllu(&std::fs::read_to_string(&path).unwrap()).unwrap();
        for s in read {
            sentences.push(s);
            regs.push(path.clone());
        }
    }
    let folds = 10;
    let mut all = Evaluation::default();
    let mut lower = Evaluation::default();
    let mut wrong = Vec::new();
    let mut perreg: std::collections::BTreeMap<String, (u64, u64)> = Default::default();
    for fold in 0..folds {
        let train: Vec<_> =
            sentences.iter().enumerate().filter(|(i, _)| i % folds != fold).map(|(_, s)| s.clone()).collect();
        let test: Vec<_> = sentences.iter().enumerate().filter(|(i, _)| i % folds == fold).collect();
        let model = learn(&train, "en", "x");
        if fold == 0 {
            eprintln!("features {} bytes {}", model.len(), model.to_bytes().len());
        }
        let gold: Vec<_> = test.iter().map(|(_, s)| (*s).clone()).collect();
        let (e, p) = evaluate(&model, &gold, &|f, _| f.to_owned());
        for ((g, p), (i, _)) in gold.iter().zip(&p).zip(&test) {
            let r = perreg.entry(regs[*i].clone()).or_default();
            for (k, (a, b)) in g.words.iter().zip(&p.words).enumerate() {
                r.0 += 1;
                r.1 += u64::from(a.tag == b.tag);
                if a.tag != b.tag {
                    let ctx: Vec<String> = g
                        .words
                        .iter()
                        .enumerate()
                        .map(|(j, w)| if j == k { format!("[{}]", w.form) } else { w.form.clone() })
                        .collect();
                    wrong.push(format!(
                        "{}\t{}\t{}\t{}\t{}",
                        i,
                        k,
                        a.tag.unwrap().code(),
                        b.tag.unwrap().code(),
                        ctx.join(" ")
                    ));
                }
            }
        }
        all.absorb(e);
        let low: Vec<_> = gold
            .iter()
            .map(|s| {
                let mut s = s.clone();
                for w in &mut s.words {
                    w.form = w.form.to_lowercase();
                }
                s
            })
            .collect();
        lower.absorb(evaluate(&model, &low, &|f, _| f.to_owned()).0);
    }
    println!(
        "accuracy {:.2} unknown {:.2} of {} lower {:.2}",
        all.accuracy() * 100.0,
        all.unknown.1 as f64 * 100.0 / all.unknown.0 as f64,
        all.unknown.0,
        lower.accuracy() * 100.0
    );
    for (r, (n, k)) in perreg {
        println!("{:.2} {}", k as f64 * 100.0 / n as f64, r);
    }
    let mut c: Vec<_> = all.confused.iter().collect();
    c.sort_by_key(|(_, n)| std::cmp::Reverse(**n));
    for ((a, b), n) in c.iter().take(25) {
        print!("{}>{} {}; ", a.code(), b.code(), n);
    }
    println!();
    std::fs::write("/tmp/corpus/wrong.tsv", wrong.join("\n")).unwrap();
}
