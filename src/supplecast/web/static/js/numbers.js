// Numbers as the pages print them.

// At most so many digits behind the point, without noughts at the end.
export const fixed = (value, digits) =>
  Number(value)
    .toFixed(digits)
    .replace(/(\.\d*?)0+$/, '$1')
    .replace(/\.$/, '');
