//! Trains the reader of talk and measures it on walks it was not trained on.
//!
//! `learn_talk`          writes `talk/weights.bin` from our own sentences and all walks; the same bytes every time.
//! `learn_talk measure`  leaves one walk out at a time and prints recall, precision and calibration on it.

use envelope::round::learning::{
    BUCKETS, Before, DamagedWeights, Heard, Model, STEP, TIED, before_each, class_id, class_of, classes, hear, propose, read_walk_by,
    reading, sentences, soften,
};
use envelope::round::{NoteKind, WalkInput, WalkNote, vocabulary};
use std::collections::HashMap;
use std::path::{Path, PathBuf};

/// A stretch of talk with what it tells.
struct Example {
    heard: Heard,
    class: usize,
    weight: f64,
}

struct Walk {
    name: String,
    /// Time or number, and words.
    said: Vec<(f64, String)>,
    /// What was said before each.
    before: Vec<Before>,
    timed: bool,
    text: String,
    gold: Vec<Told>,
}

/// What the list says was told.
struct Told {
    /// None where no row of the catalogue fits.
    class: Option<usize>,
    /// Seconds, or the number of the sentence.
    at: f64,
    words: String,
    finding: bool,
}

fn folder() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("talk")
}

fn words(text: &str) -> Vec<String> {
    let text = text.to_lowercase().replace(['\'', '\u{2019}'], "");
    text.split(|c: char| !c.is_alphanumeric() && c != '/' && c != '%').filter(|w| !w.is_empty()).map(str::to_owned).collect()
}

/// The share of the first's words that stand in the second.
fn overlap(of: &str, within: &str) -> f64 {
    let mut have: HashMap<String, i32> = HashMap::new();
    for w in words(within) {
        *have.entry(w).or_default() += 1;
    }
    let want = words(of);
    let both = want
        .iter()
        .filter(|w| {
            have.get_mut(*w).is_some_and(|n| {
                *n -= 1;
                *n >= 0
            })
        })
        .count();
    both as f64 / want.len().max(1) as f64
}

fn walks() -> Vec<Walk> {
    let dir = folder().join("walks");
    let mut files: Vec<PathBuf> =
        std::fs::read_dir(&dir).unwrap().map(|e| e.unwrap().path()).filter(|p| p.to_string_lossy().ends_with(".gold.json")).collect();
    files.sort();
    files
        .iter()
        .map(|g| {
            let name = g.file_name().unwrap().to_string_lossy().replace(".gold.json", "");
            let text = ["vtt", "srt", "txt"].iter().find_map(|e| std::fs::read_to_string(dir.join(format!("{name}.{e}"))).ok()).unwrap();
            let gold: serde_json::Value = serde_json::from_str(&std::fs::read_to_string(g).unwrap()).unwrap();
            let rows = gold.as_array().unwrap();
            let timed = rows.iter().all(|e| !e["t"].is_null());
            let sentences = sentences(&text).unwrap();
            let before = before_each(&sentences);
            let said = sentences
                .into_iter()
                .enumerate()
                .map(|(i, s)| (if timed { s.t_s.unwrap_or(0.0) } else { i as f64 + 1.0 }, s.text))
                .collect();
            let gold = rows
                .iter()
                .map(|e| {
                    let finding = matches!(e["kind"].as_str(), Some("defect" | "good"));
                    let class = e["condition"].as_str().and_then(class_of);
                    let at = e[if timed { "t" } else { "s" }].as_f64().unwrap();
                    Told { class, at, words: e["words"].as_str().unwrap().to_owned(), finding }
                })
                .collect();
            Walk { name, said, before, timed, text, gold }
        })
        .collect()
}

impl Walk {
    /// The sentence each entry of the list was told in.
    fn told(&self) -> Vec<Vec<usize>> {
        let mut out = vec![vec![]; self.said.len()];
        for (k, Told { at, words: text, .. }) in self.gold.iter().enumerate() {
            let near = if self.timed { 25.0 } else { 4.0 };
            let best = (0..self.said.len()).filter(|i| (self.said[*i].0 - at).abs() <= near).max_by(|a, b| {
                let o = |i: usize| overlap(text, &self.said[i].1) - 0.001 * (self.said[i].0 - at).abs();
                o(*a).total_cmp(&o(*b))
            });
            if let Some(i) = best.filter(|i| overlap(text, &self.said[*i].1) >= 0.45) {
                out[i].push(k);
            }
        }
        out
    }

    fn examples(&self) -> Vec<Example> {
        let none = classes() - 1;
        let mut out = vec![];
        let all = self.told();
        for (i, told) in all.iter().enumerate() {
            // A caption that ended in mid-sentence may hold the beginning of what is told here.
            let told: Vec<usize> = (i.saturating_sub(2)..i).flat_map(|j| &all[j]).chain(told).copied().collect();
            let sentence = &self.said[i].1;
            let before = &self.before[i];
            let stretches: Vec<(String, Heard)> = reading(before.text(), sentence, |said| {
                said.stretches().into_iter().map(|words| (said.text(&words).to_owned(), said.heard(&words, before))).collect()
            });
            for (k, (s, heard)) in stretches.into_iter().enumerate() {
                let over: Vec<(usize, f64)> = told.iter().map(|g| (*g, overlap(&self.gold[*g].words, &s))).collect();
                let held: Vec<usize> = over.iter().filter(|(_, o)| *o >= 0.7).map(|(g, _)| *g).collect();
                let class = match held.as_slice() {
                    [] if over.iter().all(|(_, o)| *o < 0.2) => none,
                    [g] => match (self.gold[*g].class, self.gold[*g].finding) {
                        (Some(c), true) => c,
                        // Findings the catalogue has no row for teach nothing; limitations and the like are no findings.
                        (None, true) => continue,
                        _ => none,
                    },
                    _ => continue,
                };
                out.push(Example { heard, class, weight: if k == 0 { 1.0 } else { 0.6 } });
            }
        }
        out
    }
}

/// The part a sentence names first, and the sentence with a pronoun in its place.
fn apart(text: &str) -> Option<(String, String)> {
    let lower = text.to_lowercase();
    let edge = |at: usize| {
        let letter = |c: Option<char>| c.is_some_and(char::is_alphanumeric);
        !letter(lower[..at].chars().next_back()) || !letter(lower[at..].chars().next())
    };
    let found = vocabulary().components().iter().flat_map(|c| &c.words).filter_map(|w| {
        let at = lower.match_indices(w.as_str()).map(|(at, _)| at).find(|at| edge(*at) && edge(at + w.len()))?;
        Some((at, w))
    });
    let (at, part) = found.min_by_key(|(at, w)| (*at, std::cmp::Reverse(w.len())))?;
    let mut head = lower[..at].trim_end().to_owned();
    for article in ["the", "this", "that", "a", "an", "these", "those", "them"] {
        if let Some(rest) = head.strip_suffix(article).filter(|r| r.is_empty() || r.ends_with(' ')) {
            head = rest.trim_end().to_owned();
            break;
        }
    }
    let rest = lower[at + part.len()..].trim_start();
    (words(&head).len() + words(rest).len() >= 3).then(|| (part.clone(), format!("{head} it {rest}").trim().to_owned()))
}

/// Our own sentences as they are said on a walk: with talk around them, after other talk, and of a part that was named before. Without this
/// the words around a finding weigh as if they were it.
fn retold(texts: &[(String, usize)]) -> Vec<Example> {
    /// Each sentence so many times with other talk.
    const TIMES: usize = 3;
    let (around, after, of_it) = (env("AROUND", 0.2), env("AFTER", 0.2), env("OF_IT", 0.3));
    let none = classes() - 1;
    let idle: Vec<&str> = texts.iter().filter(|t| t.1 == none).map(|t| t.0.as_str()).collect();
    let mut random = Random(7);
    let mut any = |n: usize| (random.next() % n as u64) as usize;
    let (nothing, mut out) = (Before::default(), vec![]);
    for (t, class) in (0..TIMES).flat_map(|_| texts) {
        let (other, said) = (idle[any(idle.len())].trim_end_matches('.'), t.trim_end_matches('.'));
        let said = if any(2) == 0 { format!("{other}, {said}") } else { format!("{said}, {other}") };
        out.push(Example { heard: hear(&said, &nothing), class: *class, weight: around });
        let before = if any(3) == 0 { &texts[any(texts.len())].0 } else { idle[any(idle.len())] };
        out.push(Example { heard: hear(t, &Before::of(before)), class: *class, weight: after });
    }
    let named: Vec<Option<(String, String)>> = texts.iter().map(|(t, _)| apart(t)).collect();
    let mut of: HashMap<&str, Vec<usize>> = HashMap::new();
    for (i, (part, _)) in named.iter().enumerate().filter_map(|(i, n)| Some((i, n.as_ref()?))) {
        of.entry(part).or_default().push(i);
    }
    for ((_, class), n) in texts.iter().zip(&named).filter(|(t, _)| t.1 != none) {
        let Some((part, rest)) = n else { continue };
        let others = &of[part.as_str()];
        let before = match any(3) {
            0 => format!("now the {part}"),
            1 => format!("this is the {part}"),
            _ => texts[others[any(others.len())]].0.clone(),
        };
        out.push(Example { heard: hear(rest, &Before::of(&before)), class: *class, weight: of_it });
    }
    out
}

/// Our own sentences with what they tell, and the names of the conditions.
fn own() -> Vec<Example> {
    let mut texts: Vec<(String, usize)> = vec![];
    let mut files: Vec<PathBuf> = std::fs::read_dir(folder())
        .unwrap()
        .map(|e| e.unwrap().path())
        .filter(|p| p.extension().is_some_and(|e| e == "txt") && !p.ends_with("concepts.txt"))
        .collect();
    files.sort();
    for f in files {
        let mut class = classes() - 1;
        for line in std::fs::read_to_string(&f).unwrap().lines() {
            let line = line.trim();
            if line.is_empty() || line.starts_with('#') {
                continue;
            }
            if let Some(id) = line.strip_prefix('[').and_then(|l| l.strip_suffix(']')) {
                class = if id == "none" { classes() - 1 } else { class_of(id).unwrap_or_else(|| panic!("{id} is no condition")) };
                continue;
            }
            texts.push((line.to_owned(), class));
        }
    }
    let nothing = Before::default();
    let mut out: Vec<Example> = texts.iter().map(|(t, class)| Example { heard: hear(t, &nothing), class: *class, weight: 1.0 }).collect();
    out.extend(retold(&texts));
    for c in envelope::finding::catalogue().rows() {
        if let Some(class) = class_of(&c.id) {
            out.push(Example { heard: hear(&c.name, &nothing), class, weight: 0.7 });
        }
    }
    out
}

/// SplitMix64: the same order every time.
struct Random(u64);
impl Random {
    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }
    fn unit(&mut self) -> f64 {
        (self.next() >> 11) as f64 / (1u64 << 53) as f64
    }
}

struct Dense {
    w: Vec<f32>,
    g: Vec<f32>,
    bias: Vec<f64>,
    bias_g: Vec<f64>,
    tied: [f64; TIED],
    tied_g: [f64; TIED],
}

fn env(name: &str, usual: f64) -> f64 {
    std::env::var(name).ok().and_then(|v| v.parse().ok()).unwrap_or(usual)
}

/// What the weights were over the later rounds, summed up: their mean is steadier than the last of them.
struct Mean {
    w: Vec<f32>,
    bias: Vec<f64>,
    tied: [f64; TIED],
    count: f64,
}

/// The mean of weights trained in several orders: what one order leans on by chance, another does not.
fn train(examples: &[&Example]) -> Dense {
    let times = env("SEEDS", 3.0) as u64;
    let mut all = (0..times).map(|seed| train_once(examples, seed));
    let mut mean = all.next().expect("trained at least once");
    for d in all {
        mean.w.iter_mut().zip(d.w).for_each(|(a, b)| *a += b);
        mean.bias.iter_mut().zip(d.bias).for_each(|(a, b)| *a += b);
        mean.tied.iter_mut().zip(d.tied).for_each(|(a, b)| *a += b);
    }
    let n = times as f32;
    mean.w.iter_mut().for_each(|w| *w /= n);
    mean.bias.iter_mut().for_each(|b| *b /= f64::from(n));
    mean.tied = mean.tied.map(|t| t / f64::from(n));
    mean
}

/// Softmax with AdaGrad; features are left out at random, so that none is leant on alone.
fn train_once(examples: &[&Example], seed: u64) -> Dense {
    let (n, epochs, rate, dropout) = (classes(), env("EPOCHS", 15.0) as usize, env("RATE", 0.12), env("DROP", 0.75));
    let goods: Vec<bool> = envelope::round::learning::goods();
    let mut d = Dense {
        w: vec![0.0; BUCKETS * n],
        g: vec![1e-4; BUCKETS * n],
        bias: vec![0.0; n],
        bias_g: vec![1e-4; n],
        tied: [0.0; TIED],
        tied_g: [1e-2; TIED],
    };
    let mut order: Vec<usize> = (0..examples.len()).collect();
    let mut random = Random(20_261_126 + seed);
    let decay = env("DECAY", 2e-4);
    let from = env("MEAN", 0.5);
    let mut mean: Option<Mean> = None;
    for epoch in 0..epochs {
        for i in (1..order.len()).rev() {
            order.swap(i, (random.next() % (i as u64 + 1)) as usize);
        }
        for k in &order {
            let e = examples[*k];
            let kept: Vec<usize> = e.heard.features.iter().filter(|_| random.unit() >= dropout).map(|f| *f as usize * n).collect();
            let scale = (1.0 / (1.0 - dropout)) as f32;
            let mut sums = vec![0.0f32; n];
            for f in &kept {
                sums.iter_mut().zip(&d.w[*f..f + n]).for_each(|(q, w)| *q += w);
            }
            let mut p: Vec<f64> = d.bias.iter().zip(&sums).map(|(b, q)| b + f64::from(q * scale)).collect();
            let t = |c: usize| (c + 1 < n).then(|| e.heard.tied.of(c, goods[c]));
            for (c, q) in p.iter_mut().enumerate() {
                if let Some(t) = t(c) {
                    *q += t.iter().zip(&d.tied).map(|(a, b)| a * b).sum::<f64>();
                }
            }
            soften(&mut p, 1.0);
            p[e.class] -= 1.0;
            let mut tied = [0.0; TIED];
            let off: Vec<(usize, f64)> = p.iter().map(|off| off * e.weight).enumerate().filter(|(_, g)| g.abs() >= 1e-4).collect();
            for (c, grad) in &off {
                d.bias_g[*c] += grad * grad;
                d.bias[*c] -= rate * grad / d.bias_g[*c].sqrt();
                if let Some(t) = t(*c) {
                    for (a, b) in tied.iter_mut().zip(&t) {
                        *a += grad * b;
                    }
                }
            }
            for f in &kept {
                let (w, sum) = (&mut d.w[*f..f + n], &mut d.g[*f..f + n]);
                for (c, grad) in &off {
                    let g = *grad as f32;
                    sum[*c] += g * g;
                    w[*c] -= rate as f32 * g / sum[*c].sqrt() + (decay as f32) * w[*c];
                }
            }
            for (k, g) in tied.iter().enumerate() {
                d.tied_g[k] += g * g;
                d.tied[k] -= rate * g / d.tied_g[k].sqrt();
            }
        }
        if epoch as f64 >= from * epochs as f64 {
            let m = mean.get_or_insert_with(|| Mean { w: vec![0.0; d.w.len()], bias: vec![0.0; n], tied: [0.0; TIED], count: 0.0 });
            m.w.iter_mut().zip(&d.w).for_each(|(a, b)| *a += b);
            m.bias.iter_mut().zip(&d.bias).for_each(|(a, b)| *a += b);
            m.tied.iter_mut().zip(&d.tied).for_each(|(a, b)| *a += b);
            m.count += 1.0;
        }
    }
    if let Some(Mean { w, bias, tied, count }) = mean {
        d.w = w.into_iter().map(|x| x / count as f32).collect();
        d.bias = bias.into_iter().map(|x| x / count).collect();
        d.tied = tied.map(|x| x / count);
    }
    d
}

/// Weights as they are kept: small ones left out, the rest in steps.
fn pack(d: &Dense, temper: f32) -> Vec<u8> {
    let n = classes();
    let mut out = (n as u16).to_le_bytes().to_vec();
    for b in &d.bias {
        out.extend((*b as f32).to_le_bytes());
    }
    for t in &d.tied {
        out.extend((*t as f32).to_le_bytes());
    }
    out.extend(temper.to_le_bytes());
    let least = env("PRUNE", 2.5) as f32;
    let mut rows = vec![];
    for b in 0..BUCKETS {
        let of: Vec<(u8, i8)> = (0..n)
            .map(|c| (c as u8, (d.w[b * n + c] / STEP)))
            .filter(|(_, w)| w.abs() >= least)
            .map(|(c, w)| (c, w.round().clamp(-127.0, 127.0) as i8))
            .collect();
        if !of.is_empty() {
            rows.push((b, of));
        }
    }
    out.extend((rows.len() as u32).to_le_bytes());
    let mut last = 0;
    for (b, of) in rows {
        out.extend(u16::try_from(b - last).expect("buckets lie close").to_le_bytes());
        out.push(of.len() as u8);
        for (c, w) in of {
            out.extend([c, w as u8]);
        }
        last = b;
    }
    out
}

struct Tally {
    told: usize,
    hit: usize,
    kept: usize,
    right: usize,
}

/// What a walk is read as against its list: nearest first, one to one, as the score of the reference counts. What is told by words the list
/// has without a condition, since no row of the catalogue fits them, is left out.
fn measure(w: &Walk, model: &Model, least: f64, list: bool, seen: &mut Vec<(f64, bool)>) -> Tally {
    let input = WalkInput { walk: w.text.clone(), sure_from: Some(least), ..WalkInput::default() };
    let read = read_walk_by(&input, model).unwrap();
    let mut last = 0;
    let mut at = |n: &WalkNote| {
        if w.timed {
            return n.t_s.unwrap_or(0.0);
        }
        let found = (last..w.said.len()).chain(0..last).find(|i| overlap(&n.text, &w.said[*i].1) >= 0.8).unwrap_or(last);
        last = found;
        w.said[found].0
    };
    let finding = |n: &&WalkNote| matches!(n.kind, NoteKind::Defect | NoteKind::Good) && n.condition.is_some();
    let near = if w.timed { 20.0 } else { 3.0 };
    let gold: Vec<&Told> = w.gold.iter().filter(|g| g.finding && g.class.is_some()).collect();
    let nameless = |n: &WalkNote, at: f64| {
        w.gold.iter().any(|g| g.finding && g.class.is_none() && (g.at - at).abs() <= near && overlap(&g.words, &n.text) >= 0.6)
    };
    let (mut taken, mut t) = (vec![false; gold.len()], Tally { told: gold.len(), hit: 0, kept: 0, right: 0 });
    for (kept, of) in [(true, &read.notes), (false, &read.maybe)] {
        let notes: Vec<(&WalkNote, usize, f64)> =
            of.iter().filter(finding).map(|n| (n, class_of(n.condition.as_deref().unwrap()).unwrap(), at(n))).collect();
        let mut pairs: Vec<(f64, usize, usize)> = vec![];
        for (i, (_, class, at)) in notes.iter().enumerate() {
            for (k, g) in gold.iter().enumerate().filter(|(k, g)| !taken[*k] && g.class == Some(*class) && (g.at - at).abs() <= near) {
                pairs.push(((g.at - at).abs(), k, i));
            }
        }
        pairs.sort_by(|a, b| a.partial_cmp(b).expect("times are numbers"));
        let mut right = vec![false; notes.len()];
        for (_, k, i) in pairs {
            if !right[i] && !taken[k] {
                right[i] = true;
                taken[k] = true;
                t.hit += usize::from(kept);
            }
        }
        for ((n, class, at), right) in notes.iter().zip(&right) {
            if !right && nameless(n, *at) {
                continue;
            }
            seen.push((n.confidence, *right));
            if kept {
                t.kept += 1;
                t.right += usize::from(*right);
            }
            if list && (kept != *right) {
                let what = if kept { "WRONG" } else { "UNSURE" };
                println!("{what} {} {at} {} {:.2} | {} | {:?}", w.name, class_id(*class).unwrap(), n.confidence, n.text, n.others);
            }
        }
    }
    for (k, g) in gold.iter().enumerate().filter(|(k, _)| list && !taken[*k]) {
        println!("MISSED {} {} {} | {} {k}", w.name, g.at, class_id(g.class.unwrap()).unwrap(), g.words);
    }
    t
}

/// How sure a finding must be to be kept, for the curve of recall and precision.
const CURVE: [f64; 7] = [0.25, 0.3, 0.35, 0.4, 0.45, 0.5, 0.6];

/// Which walk, how it was read, each proposal with how sure it was and whether it was right, and how it is read by other limits.
type Measured = (usize, Tally, Vec<(f64, bool)>, [Tally; CURVE.len()]);

fn main() -> Result<(), DamagedWeights> {
    let own = own();
    let walks = walks();
    let of: Vec<Vec<Example>> = walks.iter().map(Walk::examples).collect();
    println!(
        "{} own sentences, {} stretches of {} walks, {} classes",
        own.len(),
        of.iter().map(Vec::len).sum::<usize>(),
        walks.len(),
        classes()
    );
    if std::env::args().nth(1).as_deref() != Some("measure") {
        let all: Vec<&Example> = own.iter().chain(of.iter().flatten()).collect();
        let bytes = pack(&train(&all), env("TEMPER", 0.65) as f32);
        Model::read(&bytes)?;
        println!("{} bytes of weights", bytes.len());
        std::fs::write(folder().join("weights.bin"), bytes).expect("the folder of the weights can be written");
        return Ok(());
    }
    let began = std::time::Instant::now();
    let mut spoken = 0;
    for w in &walks {
        spoken += words(&w.text).len();
        let input = WalkInput { walk: w.text.clone(), ..WalkInput::default() };
        read_walk_by(&input, Model::shipped()).unwrap();
    }
    println!("{spoken} words of all walks read in {:.2} s by the weights that ship", began.elapsed().as_secs_f64());
    let least = env("LEAST", envelope::round::USUALLY_SURE);
    let rows: Vec<Measured> = std::thread::scope(|s| {
        let work: Vec<_> = (0..2)
            .map(|part| {
                let (own, of, walks) = (&own, &of, &walks);
                s.spawn(move || {
                    (0..walks.len())
                        .filter(|k| k % 2 == part)
                        .map(|k| {
                            let rest: Vec<&Example> =
                                own.iter().chain(of.iter().enumerate().filter(|(j, _)| *j != k).flat_map(|(_, e)| e)).collect();
                            let model = Model::read(&pack(&train(&rest), env("TEMPER", 0.65) as f32)).unwrap();
                            let mut seen = vec![];
                            let t = measure(&walks[k], &model, least, std::env::var("LIST").is_ok(), &mut seen);
                            if std::env::var("SHOW").is_ok() {
                                let w = &walks[k];
                                for (i, (_, said)) in w.said.iter().enumerate() {
                                    let before = &w.before[i];
                                    let told: Vec<&str> = w.told()[i]
                                        .iter()
                                        .filter(|g| w.gold[**g].finding)
                                        .filter_map(|g| class_id(w.gold[*g].class?))
                                        .collect();
                                    let p: Vec<String> = propose(&model, said, before, 0.2)
                                        .iter()
                                        .map(|p| format!("{} {:.2}", class_id(p.class).unwrap(), p.p))
                                        .collect();
                                    println!("{} | {said} | told {told:?} | {p:?}", w.name);
                                }
                            }
                            let curve = CURVE.map(|least| measure(&walks[k], &model, least, false, &mut vec![]));
                            (k, t, seen, curve)
                        })
                        .collect::<Vec<_>>()
                })
            })
            .collect();
        let mut rows: Vec<_> = work.into_iter().flat_map(|w| w.join().unwrap()).collect();
        rows.sort_by_key(|r| r.0);
        rows
    });
    let mut all = Tally { told: 0, hit: 0, kept: 0, right: 0 };
    let share = |a: usize, b: usize| a as f64 / b.max(1) as f64;
    for (k, t, ..) in &rows {
        println!(
            "{:22} told {:3} kept {:3}  recall {:.2} precision {:.2}",
            walks[*k].name,
            t.told,
            t.kept,
            share(t.hit, t.told),
            share(t.right, t.kept)
        );
        all = Tally { told: all.told + t.told, hit: all.hit + t.hit, kept: all.kept + t.kept, right: all.right + t.right };
    }
    println!("all: recall {:.3} precision {:.3}", share(all.hit, all.told), share(all.right, all.kept));
    for (c, least) in CURVE.iter().enumerate() {
        let sum = |f: fn(&Tally) -> usize| rows.iter().map(|r| f(&r.3[c])).sum::<usize>();
        let (r, p) = (share(sum(|t| t.hit), sum(|t| t.told)), share(sum(|t| t.right), sum(|t| t.kept)));
        println!("kept from {least:.2}: recall {r:.3} precision {p:.3} both {:.3}", 2.0 * r * p / (r + p));
    }
    let seen: Vec<(f64, bool)> = rows.into_iter().flat_map(|r| r.2).collect();
    for k in 1..10 {
        let (low, high) = (k as f64 / 10.0, (k + 1) as f64 / 10.0 + if k == 9 { 1e-9 } else { 0.0 });
        let these: Vec<bool> = seen.iter().filter(|(p, _)| (low..high).contains(p)).map(|(_, r)| *r).collect();
        println!(
            "said {low:.1} to {high:.1}: {:4} proposals, right {:.2}",
            these.len(),
            share(these.iter().filter(|r| **r).count(), these.len())
        );
    }
    Ok(())
}
