// Puts fresh HTML in the place of what is there, and leaves alone what is the same: less to lay out while somebody
// types, and what was opened to be read stays open.
const opened = (node, name) => name === "open" && node.localName === "details";

const attributes = (old, fresh) => {
  for (const { name } of [...old.attributes]) if (!fresh.hasAttribute(name) && !opened(old, name)) old.removeAttribute(name);
  for (const { name, value } of fresh.attributes) if (old.getAttribute(name) !== value) old.setAttribute(name, value);
};

// A button for one thing never becomes, under somebody's finger, the button for another.
const another = (old, fresh) => old.dataset !== undefined && fresh.dataset !== undefined
  && (old.dataset.value !== fresh.dataset.value || old.dataset.set !== fresh.dataset.set);

const nodes = (old, fresh) => {
  const there = [...old.childNodes];
  const wanted = [...fresh.childNodes];
  wanted.forEach((node, i) => {
    const at = there[i];
    if (!at) old.append(node);
    else if (at.isEqualNode(node)) return;
    else if (at.nodeType === Node.ELEMENT_NODE && at.nodeName === node.nodeName && !another(at, node)) { attributes(at, node); nodes(at, node); }
    else if (at.nodeType === Node.TEXT_NODE && node.nodeType === Node.TEXT_NODE) at.data = node.data;
    else at.replaceWith(node);
  });
  for (const gone of there.slice(wanted.length)) gone.remove();
};

const text = (old, html) => {
  const fresh = document.createElement("template");
  fresh.innerHTML = html;
  nodes(old, fresh.content);
};
export const put = { nodes, text };
