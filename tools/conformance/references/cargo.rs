// Answers lines of KIND, X, Y (tab-separated) with Cargo's semver library.
use semver::{Version, VersionReq};
use std::io::{self, BufRead, Write};

fn answer(kind: &str, x: &str, y: &str) -> String {
    if kind == "order" {
        return match (Version::parse(x), Version::parse(y)) {
            (Ok(mut a), Ok(mut b)) => {
                a.build = semver::BuildMetadata::EMPTY;
                b.build = semver::BuildMetadata::EMPTY;
                (a.cmp(&b) as i32).to_string()
            }
            _ => "error".to_string(),
        };
    }
    match (VersionReq::parse(x), Version::parse(y)) {
        (Ok(requirement), Ok(version)) => requirement.matches(&version).to_string(),
        _ => "error".to_string(),
    }
}

fn main() {
    let stdout = io::stdout();
    let mut out = io::BufWriter::new(stdout.lock());
    for line in io::stdin().lock().lines() {
        let line = line.unwrap();
        let parts: Vec<&str> = line.split('\t').collect();
        writeln!(out, "{}", answer(parts[0], parts[1], parts[2])).unwrap();
    }
}
