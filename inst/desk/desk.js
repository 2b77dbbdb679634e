// The page's part of the desk: it tells the server what was done, keeps the focus, the place and what is chosen.
(function () {
  "use strict";
  var chosen = new Set();
  var focusKey = null;
  var opened = {};
  var token = new URLSearchParams(location.search).get("token");
  var files = {};

  function send(name, value) { window.Shiny.setInputValue(name, value, { priority: "event" }); }
  function place() { return decodeURIComponent(location.hash.slice(1)); }
  var saying = null;
  function say(text) {
    document.getElementById("said").textContent = text;
    clearTimeout(saying);
    saying = setTimeout(function () { document.getElementById("said").textContent = ""; }, 8000);
  }
  function strips() { return Array.from(document.querySelectorAll(".strip")); }
  function reason() { var field = document.getElementById("reason"); return field ? field.value : ""; }

  function act(what) {
    if (!what.reason && reason()) what.reason = reason();
    send("act", what);
    var field = document.getElementById("reason");
    if (field && what.act !== "reason") field.value = "";
  }

  // What tools work on: the chosen strips, else the one in focus.
  function picked(strip) {
    if (chosen.size > 0) return Array.from(chosen);
    var one = strip || document.querySelector(".strip.current");
    return one ? [one.dataset.item] : [];
  }

  function choose(strip, add) {
    var item = strip.dataset.item;
    if (!add) chosen.clear();
    if (add && chosen.has(item)) chosen.delete(item); else chosen.add(item);
    showChosen();
  }

  function showChosen() {
    strips().forEach(function (s) { s.setAttribute("aria-selected", chosen.has(s.dataset.item) ? "true" : "false"); });
  }

  function current(strip) {
    strips().forEach(function (s) { s.classList.remove("current"); s.tabIndex = -1; });
    if (!strip) strip = strips()[0];
    if (strip) { strip.classList.add("current"); strip.tabIndex = 0; }
  }

  function tool(name, value) {
    var items = picked();
    if (items.length === 0) { say("\u2013"); return; }
    if (name === "look") { location.hash = "item/" + encodeURIComponent(items[0]); return; }
    var what = { act: name, items: items };
    if (name === "move") what.to = value;
    chosen.clear();
    act(what);
  }

  document.addEventListener("click", function (e) {
    var button = e.target.closest("[data-act]");
    if (button) { act(JSON.parse(button.dataset.act)); return; }
    var t = e.target.closest("button[data-tool]");
    if (t) { tool(t.dataset.tool); return; }
    var strip = e.target.closest(".strip");
    if (strip) { choose(strip, e.ctrlKey || e.metaKey || e.shiftKey); current(strip); strip.focus(); return; }
    var skip = e.target.closest("[data-skip]");
    if (skip) { e.preventDefault(); var title = document.getElementById("place-title"); if (title) title.focus(); return; }
    var amend = e.target.closest(".amend button");
    if (amend) { sendAmend(amend.parentElement); return; }
    if (e.target.closest("[data-beside]")) {
      location.hash = "beside/" + document.getElementById("beside-one").value + "-" + document.getElementById("beside-two").value;
      return;
    }
    if (e.target.closest("[data-codebook]")) { sendCodebook(); return; }
    var copy = e.target.closest("[data-copy]");
    if (copy) { copyText(copy); return; }
    var save = e.target.closest("[data-save]");
    if (save) { saveImage(save); return; }
    var svg = e.target.closest("[data-svg]");
    if (svg) svg.href = files.svg + "&key=" + svg.dataset.svg;
    var report = e.target.closest("[data-report]");
    if (report) report.href = files.report;
  });

  document.addEventListener("dblclick", function (e) {
    var strip = e.target.closest(".strip");
    if (strip) location.hash = "item/" + encodeURIComponent(strip.dataset.item);
  });

  function sendAmend(row) {
    var parts = {};
    row.querySelectorAll("[data-part]").forEach(function (f) { parts[f.dataset.part.split("-").pop()] = f.value; });
    if (Object.values(parts).some(function (v) { return v === ""; })) { say("\u2013"); return; }
    var what = { act: "amend", name: row.dataset.amend };
    if (parts.one) what.items = [parts.one, parts.two];
    if (parts.item) what.items = [parts.item];
    if (parts.to) what.to = parts.to;
    if (parts.of) what.of = [parts.of];
    act(what);
  }

  function sendCodebook() {
    var cells = Array.from(document.querySelectorAll("[data-cell]")).map(function (f) {
      return { row: Number(f.dataset.row), field: f.dataset.cell, value: f.value };
    });
    send("codebook", JSON.stringify(cells));
  }

  function tableText(table) {
    var caption = table.querySelector("caption");
    var rows = Array.from(table.querySelectorAll("tr")).map(function (r) {
      return Array.from(r.children).map(function (c) { return c.textContent.trim(); }).join("\t");
    });
    return (caption ? caption.textContent.trim() + "\n" : "") + rows.join("\n");
  }

  function copyText(button) {
    var text;
    if (button.dataset.copy === "table") {
      text = tableText(button.parentElement.previousElementSibling.querySelector("table"));
    } else {
      text = button.parentElement.previousElementSibling.textContent;
    }
    navigator.clipboard.writeText(text).then(function () { say("\u2713"); }, function () { say("\u2717"); });
    window.deskCopied = text;
  }

  // A click on the scree takes as many factors as stand under it.
  function screeClick(e) {
    var image = e.target.closest(".scree img");
    if (!image) return;
    var span = JSON.parse(image.closest(".scree").dataset.span);
    var at = (e.clientX - image.getBoundingClientRect().left) / image.getBoundingClientRect().width;
    var number = Math.round(span.low + (at - span.left) / (span.right - span.left) * (span.high - span.low));
    if (number >= 1 && number <= span.most) act({ act: "set", step: "exploration", name: "factors", value: number });
  }
  document.addEventListener("click", screeClick);

  // A click on the heat map names the pair under it, each of which can be turned.
  function heatClick(e) {
    var image = e.target.closest(".heat img");
    if (!image) return;
    var span = JSON.parse(image.closest(".heat").dataset.span), box = image.getBoundingClientRect();
    var across = ((e.clientX - box.left) / box.width - span.left) / (span.right - span.left);
    var down = ((e.clientY - box.top) / box.height - span.top) / (span.bottom - span.top);
    var one = Math.round(span.low + across * (span.high - span.low)) - 1;
    var other = span.items.length - Math.round(span.above - down * (span.above - span.below));
    if (!span.items[one] || !span.items[other] || one === other) return;
    var line = document.getElementById("pair");
    line.textContent = span.items[one] + " \u2194 " + span.items[other] + ": " + span.r[other][one] + " ";
    [one, other].forEach(function (i) {
      var button = document.createElement("button");
      button.type = "button";
      button.className = "act";
      button.dataset.act = JSON.stringify({ act: "turn", items: [span.items[i]] });
      button.textContent = "\u21c4 " + span.items[i];
      line.appendChild(button);
      line.appendChild(document.createTextNode(" "));
    });
  }
  document.addEventListener("click", heatClick);

  // On the path diagram: from one box or oval to another draws; a click chooses, and what can be done with what is chosen stands below.
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

  function saveImage(button) {
    var link = document.createElement("a");
    link.href = button.closest("figure").querySelector("img").src;
    link.download = button.dataset.name + ".png";
    link.click();
  }

  document.addEventListener("change", function (e) {
    var f = e.target;
    if (f.dataset.tool === "move") { if (f.value) tool("move", f.value); return; }
    if (f.dataset.set) { act({ act: "control", step: f.dataset.set, name: f.name, value: f.value }); return; }
    if (f.dataset.reason) { act({ act: "reason", index: Number(f.dataset.reason), value: f.value }); return; }
    if (f.dataset.tick) act({ act: "tick", name: f.dataset.tick, value: f.value, on: f.checked });
  });

  document.addEventListener("keydown", function (e) {
    var typing = /^(INPUT|SELECT|TEXTAREA)$/.test(e.target.tagName);
    if ((e.ctrlKey || e.metaKey) && !typing && (e.key === "z" || e.key === "y")) {
      e.preventDefault();
      act({ act: e.key === "z" ? "undo" : "redo" });
      return;
    }
    if (e.key === "Escape" && !typing && location.hash.length > 1) { history.back(); return; }
    var strip = e.target.closest ? e.target.closest(".strip") : null;
    if (!strip || e.ctrlKey || e.metaKey || e.altKey) return;
    var all = strips(), at = all.indexOf(strip);
    var step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (step && all[at + step]) {
      e.preventDefault();
      current(all[at + step]);
      all[at + step].focus();
      if (e.shiftKey) { chosen.add(strip.dataset.item); chosen.add(all[at + step].dataset.item); showChosen(); }
      return;
    }
    if (e.key === " ") { e.preventDefault(); choose(strip, true); return; }
    var keys = { t: "turn", a: "set_aside", b: "put_back", k: "keep", Enter: "look" };
    if (keys[e.key]) { e.preventDefault(); current(strip); tool(keys[e.key]); }
    if (e.key === "m") { e.preventDefault(); document.querySelector("select.tool").focus(); }
  });

  document.addEventListener("focusin", function (e) {
    var strip = e.target.closest(".strip");
    if (strip) current(strip);
  });

  // An item dragged to another sheet is moved there; to the last one, set aside; from it, put back.
  var dragged = null, chip = null;
  document.addEventListener("dragstart", function (e) {
    chip = e.target.closest(".chip");
    if (chip && e.dataTransfer) e.dataTransfer.setData("text/plain", chip.dataset.chip);
    var strip = e.target.closest(".strip");
    if (!strip) return;
    dragged = strip;
    if (e.dataTransfer) e.dataTransfer.setData("text/plain", strip.dataset.item);
  });
  document.addEventListener("dragover", function (e) { if (e.target.closest(".sheet, .factor")) e.preventDefault(); });
  function dropChip(e) {
    var item = chip.dataset.chip, from = chip.closest(".factor").dataset.factor, factor = e.target.closest(".factor");
    var other = e.target.closest(".chip"), means = document.getElementById("drop-means").value;
    chip = null;
    if (means === "pair") {
      if (other && other.dataset.chip !== item) act({ act: "amend", name: "pair", items: [item, other.dataset.chip] });
    } else if (factor && factor.dataset.factor !== from) {
      var to = factor.dataset.factor;
      act(to === "" ? { act: "amend", name: "leave", items: [item] } : { act: "amend", name: means, items: [item], to: to });
    }
  }
  document.addEventListener("drop", function (e) {
    if (chip) { e.preventDefault(); dropChip(e); return; }
    var sheet = e.target.closest(".sheet");
    if (!sheet || !dragged) return;
    e.preventDefault();
    var from = dragged.closest(".sheet").dataset.sheet, to = sheet.dataset.sheet;
    var items = chosen.has(dragged.dataset.item) ? Array.from(chosen) : [dragged.dataset.item];
    dragged = null;
    if (from === to) return;
    chosen.clear();
    if (to === "aside") act({ act: "set_aside", items: items });
    else if (from === "aside") act({ act: "put_back", items: items });
    else act({ act: "move", items: items, to: to });
  });

  // The focus survives what is renewed; by its key, not its place.
  function keepFocus() {
    var key = document.activeElement && document.activeElement.dataset ? document.activeElement.dataset.key : null;
    if (key) focusKey = key;
    document.querySelectorAll(".desk-place details").forEach(function (d) { opened[d.firstElementChild.textContent] = d.open; });
  }
  function giveFocus() {
    showChosen();
    document.querySelectorAll(".desk-place details").forEach(function (d) { if (opened[d.firstElementChild.textContent]) d.open = true; });
    if (!document.querySelector(".strip[tabindex='0']")) current(null);
    if (focusKey && (document.activeElement === document.body || !document.activeElement)) {
      var again = document.querySelector("[data-key='" + CSS.escape(focusKey) + "']");
      if (again) { if (again.classList.contains("strip")) current(again); again.focus({ preventScroll: true }); }
    }
  }

  function start() {
    var $ = window.jQuery;
    $(document).on("shiny:value", function () { keepFocus(); setTimeout(giveFocus, 0); setTimeout(giveFocus, 60); });
    $(document).on("shiny:connected", function () { send("place", place()); });
    $(document).on("shiny:disconnected", function () { document.body.classList.add("closed"); });
    window.addEventListener("hashchange", function () {
      focusKey = null;
      opened = {};
      drawn.clear();
      send("place", place());
      setTimeout(function () { var t = document.getElementById("place-title"); if (!t) return;
        t.focus({ preventScroll: true });
        if (window.innerWidth > 992) window.scrollTo(0, 0); else t.scrollIntoView();
      }, 400);
    });
    window.Shiny.addCustomMessageHandler("said", function (text) { say(text); });
    window.Shiny.addCustomMessageHandler("busy", function (on) { document.querySelector(".desk-place").setAttribute("aria-busy", on); });
    window.Shiny.addCustomMessageHandler("files", function (f) { files = f; });
    window.Shiny.addCustomMessageHandler("go", function (to) { location.hash = to; });
  }
  document.addEventListener("DOMContentLoaded", function () {
    (function wait() { if (window.Shiny && window.Shiny.addCustomMessageHandler && window.jQuery) start(); else setTimeout(wait, 20); })();
  });
}());
