/**
 * There are no style sheets here but the browser's own: an element's style is what it says itself. Working it out rule by rule
 * takes a seventh of all the time of these tests.
 */
window.getComputedStyle = (element: Element): CSSStyleDeclaration => (element as HTMLElement).style;
