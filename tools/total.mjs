// Counts the tests of Jest and Playwright from their reports. A missing report is a failure, never nothing.
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { root } from './install.mjs';

function report(name) {
  try {
    return JSON.parse(readFileSync(path.join(root, 'reports', name), 'utf8'));
  } catch {
    return null;
  }
}

/** Names of the browser tests that failed once and passed when they were tried again. */
export function secondTries() {
  const specsOf = ({ specs = [], suites = [] }) => [...specs, ...suites.flatMap(specsOf)];
  return specsOf(report('playwright.json') ?? {})
    .filter(({ tests }) => tests.some(({ status }) => status === 'flaky'))
    .map(({ title }) => title);
}

/** `checks` are failed steps that are no tests themselves; each counts as one failure. */
export function total(checks) {
  const jest = report('jest.json');
  const browser = report('playwright.json');
  const passed = (jest?.numPassedTests ?? 0) + (browser ? browser.stats.expected + browser.stats.flaky : 0);
  const failures =
    checks.length +
    (jest ? jest.numFailedTests + jest.numRuntimeErrorTestSuites : 1) +
    (browser ? browser.stats.unexpected + browser.errors.length : 1);
  return { passed, failures };
}
