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
