// What the types of browsers say too narrowly for a page, or not at all: what a selector finds is of the kind that the
// page's template has there.
declare const Alpine: any;

interface ParentNode {
  querySelector(selectors: string): any;
  querySelectorAll(selectors: string): NodeListOf<any>;
}

interface Element {
  closest(selectors: string): any;
}

interface Document {
  getElementById(elementId: string): any;
}

interface EventTarget {
  dataset: DOMStringMap;
  files: FileList;
}

interface Navigator {
  wakeLock: any;
}

interface Window {
  webkitAudioContext: typeof AudioContext;
}
