import { likeCause } from './likeCause';

test('reasons that differ only in values, numbers and ids are one cause', () => {
  expect(likeCause('Booking BK70002 has no field “12”.')).toBe('Booking … has no field “…”.');
  expect(likeCause('The row C-1001 gave 12.50 at 2026-03-09.')).toBe(
    likeCause('The row C-2 gave 7 at 2026-04-01.'),
  );
  expect(likeCause('1 line failed: “x” is wrong.')).toBe(likeCause('12 lines failed: “y” is wrong.'));
  expect(likeCause('It is blank.')).toBe('It is blank.');
});
