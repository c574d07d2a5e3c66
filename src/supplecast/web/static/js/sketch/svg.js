// SVG elements made.

const NS = 'http://www.w3.org/2000/svg';

export const make = (name, attributes = {}, parent = null) => {
  const node = document.createElementNS(NS, name);
  for (const [key, value] of Object.entries(attributes)) node.setAttribute(key, value);
  if (parent) parent.append(node);
  return node;
};
