//! The report of `test` as JUnit XML, for build servers.

use std::path::Path;

use quick_junit::{NonSuccessKind, Report, TestCase, TestCaseStatus, TestSuite};
use tickpond_draw::fit_for_xml;
use tickpond_lab::Report as RunReport;

use super::run::expectation_line;
use crate::failure::Failure;

/// The report under construction: a suite for each pond and seed, a case for each expectation.
pub struct Junit {
    report: Report,
}

impl Junit {
    pub fn new() -> Junit {
        Junit { report: Report::new("tickpond") }
    }

    /// Adds what came of one run, which is named; `stopped` is what a guard had to say.
    pub fn add(&mut self, name: &str, run: &RunReport, stopped: Option<&str>) {
        let mut suite = TestSuite::new(&*fit_for_xml(name));
        for expectation in &run.expectations {
            let status = match expectation.held {
                Some(true) => TestCaseStatus::success(),
                None => TestCaseStatus::skipped(),
                Some(false) => failure(&expectation_line(expectation, run.rate)),
            };
            suite.add_test_case(TestCase::new(&*fit_for_xml(&expectation.text), status));
        }
        if let Some(words) = stopped {
            suite.add_test_case(TestCase::new("no guard stops the run", failure(words)));
        }
        self.report.add_test_suite(suite);
    }

    /// Adds a pond that could not be played.
    pub fn add_broken(&mut self, file: &Path, words: &str) {
        let mut suite = TestSuite::new(&*fit_for_xml(&file.display().to_string()));
        suite.add_test_case(TestCase::new("the pond can be played", failure(words)));
        self.report.add_test_suite(suite);
    }

    /// The report as text.
    pub fn text(&self) -> Result<String, Failure> {
        self.report.to_string().map_err(Failure::wrong)
    }
}

fn failure(words: &str) -> TestCaseStatus {
    let mut status = TestCaseStatus::non_success(NonSuccessKind::Failure);
    status.set_message(&*fit_for_xml(words.trim()));
    status
}

#[cfg(test)]
mod tests {
    use std::path::Path;

    use proptest::prelude::*;
    use tickpond_arbitrary::{cases, ponds};
    use tickpond_lab::{Run, RunOptions};

    use super::*;

    proptest! {
        #![proptest_config(ProptestConfig { max_shrink_iters: 100, ..ProptestConfig::with_cases(cases(16)) })]

        /// Whatever a pond has for names, texts and mistakes.
        #[test]
        fn a_strict_reader_reads_every_report(pond in ponds(), ticks in 0u64..60) {
            let mut junit = Junit::new();
            let mut suites = 1;
            if let Some(program) = tickpond_lang::compile(&pond.text()).program {
                let mut run = Run::new(program, RunOptions::default()).unwrap();
                run.play_to(ticks);
                junit.add("sound \u{1} & <pond>", &RunReport::of(&run), Some("a \"guard\" & more"));
                suites += 1;
            }
            let slip = pond.with_slip();
            let told: String = tickpond_lang::compile(&slip).diagnostics.iter().map(|d| d.message.as_str()).collect();
            junit.add_broken(Path::new("broken.pond"), &format!("{told}\n{slip}"));
            let text = junit.text().unwrap();
            let read = roxmltree::Document::parse(&text);
            prop_assert!(read.is_ok(), "{:?}", read.err());
            let found = read.unwrap().descendants().filter(|node| node.has_tag_name("testsuite")).count();
            prop_assert_eq!(found, suites);
        }
    }
}
