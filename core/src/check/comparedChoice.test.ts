import { line, mended, rule, said } from './testDesk';

describe('a choice compared with what it cannot be', () => {
  const told = 'warning: “status” has no option “activ”, and is never equal to it.';

  test.each([
    ['IF(status = "activ", "a", "b")', [told]],
    ['IF(status <> "activ", "a", "b")', [told]],
    ['IF("activ" = status, "a", "b")', [told]],
    ['IF(ONEOF(status, "active", "activ"), "a", "b")', [told]],
    ['IF(ONEOF(status, {"activ"}), "a", "b")', [told]],
    ['IF(status = "active", "a", "b")', []],
    ['IF(status = "", "a", "b")', []],
    ['IF(name = "activ", "a", "b")', []],
  ])('%s', (formula, findings) => {
    expect(said(rule([line('title', formula)]), 'compared choice')).toEqual(findings);
  });

  test('the nearest option is offered', () => {
    const after = mended(rule([line('title', 'IF(status <> "activ", "a", "b")')]), 'compared choice');
    const [action] = after.actions;
    expect(action?.kind === 'write' && action.lines[0]?.formula).toBe('IF(status <> "active", "a", "b")');
  });

  test('what keeps a guard from ever holding is said once', () => {
    const guarded = rule([line('title', 'name')], { guard: 'status = "activ"' });
    expect(said(guarded, 'compared choice')).toEqual([]);
    expect(said(guarded, 'guard never holds')).toHaveLength(1);
    const turned = rule([line('title', 'name')], { guard: '"activ" = status' });
    expect(said(turned, 'compared choice')).toEqual([]);
    expect(said(turned, 'guard never holds')).toEqual([
      'error: The guard can never hold: “status” has no option “activ”.',
    ]);
    const either = rule([line('title', 'name')], { guard: 'OR(status = "activ", name = "x")' });
    expect(said(either, 'compared choice')).toEqual([told]);
  });
});
