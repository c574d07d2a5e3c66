// Puts the parts of the workbench together: each part holds the methods and getters of one thing that is done there.

/** @param {object[]} parts */
export function compose(...parts) {
  const whole = {};
  for (const part of parts) Object.defineProperties(whole, Object.getOwnPropertyDescriptors(part));
  return whole;
}
