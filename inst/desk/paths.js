// Drawing on the path diagram.
(function () {
  "use strict";
  function act(what) { window.deskAct(what); }
  // From one box or oval to another draws; a click chooses, and what can be done with what is chosen stands below.
  var drawing = null, drawn = new Set();
  function pathOf(e) {
    var image = e.target.closest ? e.target.closest(".paths img") : null;
    return image ? image.closest(".paths") : null;
  }
  function nodeAt(figure, e) {
    var box = figure.querySelector("img").getBoundingClientRect();
    var x = (e.clientX - box.left) / box.width, y = (e.clientY - box.top) / box.height;
    return JSON.parse(figure.dataset.span).nodes.find(function (n) { return Math.abs(x - n.x) <= n.w && Math.abs(y - n.y) <= n.h; });
  }
  function nodeKey(node) { return node.kind + " " + node.name; }
  // The picture's overlay: what is chosen, and the line that is being drawn.
  function overlay(figure, to) {
    var image = figure.querySelector("img"), box = image.getBoundingClientRect(), at = figure.getBoundingClientRect();
    var layer = figure.querySelector("svg.rubber"), ns = "http://www.w3.org/2000/svg";
    if (!layer) {
      layer = document.createElementNS(ns, "svg");
      layer.setAttribute("class", "rubber");
      layer.setAttribute("aria-hidden", "true");
      figure.appendChild(layer);
    }
    layer.replaceChildren();
    layer.style.left = (box.left - at.left) + "px";
    layer.style.top = (box.top - at.top) + "px";
    layer.setAttribute("width", box.width);
    layer.setAttribute("height", box.height);
    function add(name, values) {
      var shape = document.createElementNS(ns, name);
      Object.keys(values).forEach(function (k) { shape.setAttribute(k, values[k]); });
      layer.appendChild(shape);
    }
    JSON.parse(figure.dataset.span).nodes.filter(function (n) { return drawn.has(nodeKey(n)); }).forEach(function (n) {
      add("rect", { x: (n.x - n.w) * box.width, y: (n.y - n.h) * box.height, width: 2 * n.w * box.width, height: 2 * n.h * box.height, rx: 4 });
    });
    if (drawing && to) {
      add("line", { x1: drawing.x * box.width, y1: drawing.y * box.height, x2: to.clientX - box.left, y2: to.clientY - box.top });
    }
  }
  function drawTo(one, other) {
    if (one.kind === "item" && other.kind === "item") act({ act: "amend", name: "pair", items: [one.name, other.name] });
    else if (one.kind !== other.kind) {
      var item = one.kind === "item" ? one : other, factor = one.kind === "item" ? other : one;
      act({ act: "amend", name: "loading", items: [item.name], to: factor.name });
    } else { drawn.add(nodeKey(one)); drawn.add(nodeKey(other)); }
  }
  function chosenActs(figure) {
    var span = JSON.parse(figure.dataset.span), words = span.words, line = document.getElementById("drawn");
    var nodes = span.nodes.filter(function (n) { return drawn.has(nodeKey(n)); });
    var names = function (kind) { return nodes.filter(function (n) { return n.kind === kind; }).map(function (n) { return n.name; }); };
    var items = names("item"), factors = names("factor");
    line.replaceChildren();
    if (nodes.length === 0) return;
    line.appendChild(document.createTextNode(items.concat(factors).join(", ") + ": "));
    function offer(label, what) {
      var button = document.createElement("button");
      button.type = "button";
      button.className = "act";
      button.dataset.drawn = what.name;
      button.textContent = label;
      button.addEventListener("click", function (e) {
        e.stopPropagation();
        var full = Object.assign({ act: "amend" }, what), field = document.getElementById("drawn-name");
        if (what.named) {
          if (!field.value.trim()) { field.focus(); return; }
          full.to = field.value.trim();
        }
        delete full.named;
        drawn.clear();
        act(full);
      });
      line.appendChild(button);
      line.appendChild(document.createTextNode(" "));
    }
    function name() {
      var field = document.createElement("input");
      field.id = "drawn-name";
      field.placeholder = words.name;
      field.setAttribute("aria-label", words.name);
      line.appendChild(field);
      line.appendChild(document.createTextNode(" "));
    }
    if (items.length === 2 && factors.length === 0) offer(words.pair, { name: "pair", items: items });
    if (items.length > 0 && factors.length === 1) {
      offer(words.loading, { name: "loading", items: items, to: factors[0] });
      offer(words.shift, { name: "shift", items: items, to: factors[0] });
    }
    if (items.length > 0 && factors.length === 0) offer(words.leave, { name: "leave", items: items });
    if (items.length === 0) {
      name();
      if (factors.length === 1) offer(words.rename, { name: "rename", of: factors, named: true });
      else offer(words.above, { name: "higher", of: factors, named: true });
      offer(words.general, { name: "general", named: true });
    }
  }
  document.addEventListener("mousedown", function (e) {
    var figure = pathOf(e);
    if (!figure) return;
    e.preventDefault();
    drawing = nodeAt(figure, e) || null;
  });
  document.addEventListener("mousemove", function (e) {
    var figure = pathOf(e);
    if (figure && drawing) overlay(figure, e);
  });
  document.addEventListener("mouseup", function (e) {
    var figure = pathOf(e), from = drawing;
    drawing = null;
    if (!figure) { document.querySelectorAll("svg.rubber line").forEach(function (l) { l.remove(); }); return; }
    var to = nodeAt(figure, e);
    if (!from) drawn.clear();
    else if (to && nodeKey(to) !== nodeKey(from)) drawTo(from, to);
    else if (to && drawn.has(nodeKey(to))) drawn.delete(nodeKey(to));
    else if (to) drawn.add(nodeKey(to));
    overlay(figure, null);
    chosenActs(figure);
  });
  window.addEventListener("hashchange", function () { drawn.clear(); });
}());
