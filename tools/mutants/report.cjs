const { writeFileSync } = require('node:fs');

/** Writes what was found to the file that MUTANT_REPORT names, also where a run ends with its first failure. */
module.exports = class Report {
  files = [];

  onTestResult(test, { testResults, testExecError, numFailingTests, perfStats }) {
    this.files.push({
      path: test.path,
      ms: perfStats.end - perfStats.start,
      tests: testResults.length,
      failed: numFailingTests > 0 || Boolean(testExecError),
      told: testExecError
        ? [String(testExecError.message)]
        : testResults.flatMap((t) => (t.status === 'failed' ? t.failureMessages : [])),
    });
  }

  onRunComplete() {
    writeFileSync(process.env.MUTANT_REPORT, JSON.stringify(this.files));
  }

  getLastError() {}
};
