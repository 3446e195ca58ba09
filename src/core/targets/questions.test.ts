import { BUILT_IN_TARGETS, maybe, targetOf, traitsOf } from '.';

test('three answers lead to one target, whichever it is', () => {
  for (const target of BUILT_IN_TARGETS)
    expect(BUILT_IN_TARGETS.filter((t) => maybe(t, traitsOf(target))).map((t) => t.id)).toEqual([target.id]);
});

test('what can be seen of each, worked out by hand', () => {
  const seen = Object.fromEntries(BUILT_IN_TARGETS.map((t) => [t.id, Object.values(traitsOf(t)).join(' ')]));
  expect(seen).toEqual({
    'component-grid': 'scale components scale',
    'odd-grid': 'elevations odd extent',
    'even-grid': 'elevations even spacing',
    'fixed-step': 'nothing one nothing',
    'fixed-span': 'elevations one nothing',
    'stored-tiles': 'elevations tiles spacing',
    'voxel-layers': 'layers any spacing',
    exchange: 'elevations any spacing',
  });
});

test('what is not known leaves a target out of nothing', () => {
  const odd = targetOf('odd-grid');
  expect(maybe(odd, {})).toBe(true);
  expect(maybe(odd, { width: 'extent' })).toBe(true);
  expect(maybe(odd, { heights: 'elevations', sizes: 'even' })).toBe(false);
});
