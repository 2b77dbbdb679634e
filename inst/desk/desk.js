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

  // For the part that draws on path diagrams.
  window.deskAct = act;
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
    if (bookClick(e.target, e.shiftKey)) return;
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

  // The codebook's table: all rows ticked, one value for those that are, the field that a question is about, words in their order.
  function cell(row, field) { return document.querySelector("[data-cell='" + field + "'][data-row='" + row + "']"); }
  function put(field, value) {
    if (!field) return;
    if (field.tagName === "SELECT" && !Array.from(field.options).some(function (o) { return o.value === value; })) return;
    field.value = value;
    keyed(field);
  }
  function keyed(field) {
    var role = field.dataset.cell === "answer" && field.value.trim() ? cell(field.dataset.row, "role") : null;
    if (role && role.value === "aside") role.value = "scored";
  }
  function bookClick(target, span) {
    if (target.dataset.pick) { tickRows(target, span); return true; }
    if (target.dataset.goto) { goTo(target.dataset.goto); return true; }
    if (target.dataset.up !== undefined) { moveUp(target.closest("li")); return true; }
    if (target.dataset.order !== undefined) { takeOrder(target.closest(".order")); return true; }
    if (!target.dataset.fill) return false;
    var field = document.getElementById("chosen-field").value, value = document.getElementById("chosen-value").value;
    document.querySelectorAll("[data-pick]:checked").forEach(function (tick) { put(cell(tick.dataset.pick, field), value); });
    return true;
  }
  // What is typed and not saved yet survives that the page is renewed.
  var edited = {};
  function keepEdits() {
    edited = {};
    document.querySelectorAll("[data-cell]").forEach(function (f) {
      var was = f.tagName === "SELECT" ? (Array.from(f.options).find(function (o) { return o.defaultSelected; }) || f.options[0]).value : f.defaultValue;
      if (f.value !== was) edited[f.dataset.row + " " + f.dataset.cell] = f.value;
    });
  }
  function giveEdits() {
    Object.keys(edited).forEach(function (at) { var f = cell(at.split(" ")[0], at.split(" ")[1]); if (f) f.value = edited[at]; });
  }
  var lastTick = null;
  function tickRows(tick, span) {
    var all = Array.from(document.querySelectorAll("[data-pick]")).filter(function (t) { return t.dataset.pick !== "all"; });
    var at = all.indexOf(tick), from = all.indexOf(lastTick);
    if (tick.dataset.pick === "all") all.forEach(function (t) { t.checked = tick.checked; });
    else if (span && from >= 0) {
      all.slice(Math.min(at, from), Math.max(at, from) + 1).forEach(function (t) { t.checked = tick.checked; });
    }
    lastTick = tick;
  }
  function goTo(place) {
    var at = place.indexOf("-"), field = at > 0 ? cell(place.slice(0, at), place.slice(at + 1)) : document.getElementById("set-plan-" + place);
    if (field) { field.scrollIntoView({ block: "center" }); field.focus(); }
  }
  function moveUp(line) {
    if (line.previousElementSibling) line.parentElement.insertBefore(line, line.previousElementSibling);
    line.querySelector("button").focus();
  }
  function takeOrder(order) {
    var words = Array.from(order.querySelectorAll("[data-word]")).map(function (l) { return l.dataset.word; });
    act({ act: "order", items: JSON.parse(order.dataset.items), words: words });
  }
  document.addEventListener("input", function (e) { if (e.target.dataset.cell) keyed(e.target); });
  document.addEventListener("paste", function (e) {
    var from = e.target, text = e.clipboardData ? e.clipboardData.getData("text/plain").replace(/\r?\n$/, "") : "";
    if (!from.dataset || !from.dataset.cell || !/[\t\n]/.test(text)) return;
    e.preventDefault();
    var fields = Array.from(from.closest("tr").querySelectorAll("[data-cell]")).map(function (f) { return f.dataset.cell; });
    var row = Number(from.dataset.row), first = fields.indexOf(from.dataset.cell);
    text.split(/\r?\n/).forEach(function (line, down) {
      line.split("\t").forEach(function (value, right) { put(cell(row + down, fields[first + right]), value.trim()); });
    });
  });
  document.addEventListener("keydown", function (e) {
    if (!(e.ctrlKey || e.metaKey) || e.key !== "d" || !e.target.dataset.cell) return;
    e.preventDefault();
    var above = cell(Number(e.target.dataset.row) - 1, e.target.dataset.cell);
    if (above) put(e.target, above.value);
  });

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

  function saveImage(button) {
    var link = document.createElement("a");
    link.href = button.closest("figure").querySelector("img").src;
    link.download = button.dataset.name + ".png";
    link.click();
  }

  document.addEventListener("change", function (e) {
    var f = e.target;
    if (f.type === "file") { say(document.getElementById("said").dataset.drafting); return; }
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
    if (chip && e.dataTransfer) e.dataTransfer.setData("text/plain", chip.dataset.chip || chip.dataset.word);
    var strip = e.target.closest(".strip");
    if (!strip) return;
    dragged = strip;
    if (e.dataTransfer) e.dataTransfer.setData("text/plain", strip.dataset.item);
  });
  document.addEventListener("dragover", function (e) { if (e.target.closest(".sheet, .factor, .order li")) e.preventDefault(); });
  // A word dropped on another one takes its place.
  function dropWord(line) {
    var word = chip;
    chip = null;
    if (!line || line === word || line.parentElement !== word.parentElement) return;
    var down = word.compareDocumentPosition(line) & Node.DOCUMENT_POSITION_FOLLOWING;
    line.parentElement.insertBefore(word, down ? line.nextSibling : line);
  }
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
    if (chip) { e.preventDefault(); if (chip.dataset.word) dropWord(e.target.closest(".order li")); else dropChip(e); return; }
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
    $(document).on("shiny:value", function (e) { if (e.target.id === "place") { keepEdits(); setTimeout(giveEdits, 0); } keepFocus(); setTimeout(giveFocus, 0); setTimeout(giveFocus, 60); });
    $(document).on("shiny:connected", function () { send("place", place()); });
    $(document).on("shiny:disconnected", function () {
      document.body.classList.add("closed");
      const said = document.getElementById("said");
      said.textContent = said.dataset.gone;
    });
    window.addEventListener("hashchange", function () {
      focusKey = null;
      opened = {};
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
