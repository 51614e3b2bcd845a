// What the scripts say, in the reader's language: English stands in the scripts, other languages come with the page.

const inLanguage = (() => {
  const held = document.getElementById("words");
  return held ? JSON.parse(held.textContent) : {};
})();
const filled = (text, values) => text.replace(/\{([a-z]+)\}/g, (field, name) => (name in values ? values[name] : field));

// t("Load {number}", {number: 3}); the message must stand as it is, or nobody finds it to translate.
export const t = (msg, values = {}) => filled(inLanguage[msg] || msg, values);

// many("{n} entry", "{n} entries", 3)
export const many = (one, other, n, values = {}) => {
  const [single, several] = inLanguage[one] || [one, other];
  return filled(n === 1 ? single : several, { n, ...values });
};
