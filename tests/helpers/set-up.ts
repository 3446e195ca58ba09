import fc from 'fast-check';

fc.configureGlobal({
  // without this no array gets longer than ten entries, whatever length it is allowed
  defaultSizeToMaxWhenMaxSpecified: true,
  // a change is judged by what it does and not by luck: other cases are tried wherever else the tests run, and by fuzzing
  ...(process.env.CI ? { seed: 0x6c67 } : {}),
});
