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
