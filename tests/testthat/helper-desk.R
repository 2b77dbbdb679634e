# The desk as a process and a browser that looks at it.

skip_without_browser <- function() skip_without("chromote", "chromium", "shiny", "bslib")

# `scalewort open` as a process: list(process, address).
desk_process <- function(..., folder) {
  run <- as.character(c(system.file("exec", "scalewort", package = "scalewort"), "open", ..., "--no-browser"))
  process <- callr::process$new(file.path(R.home("bin"), "Rscript"), run, stdout = "|", stderr = "|", wd = folder, supervise = TRUE)
  until <- Sys.time() + 60
  address <- character()
  while (length(address) == 0 && Sys.time() < until && process$is_alive()) {
    process$poll_io(500)
    address <- grep("^The desk is open at ", process$read_output_lines(), value = TRUE)
  }
  if (length(address) == 0) stop("The desk did not open: ", paste(process$read_all_error_lines(), collapse = "\n"))
  list(process = process, address = sub("^.* at ", "", address))
}

# A window of the browser on an address; requests are kept, so that none goes elsewhere unseen.
desk_window <- function(address, width = 1280, height = 800) {
  if (is.null(browser_memory$browser)) {
    browser_memory$browser <- chromote::Chromote$new(browser = chromote::Chrome$new(path = Sys.which("chromium"), args = c("--headless",
      "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage", "--disable-background-networking", "--no-first-run", "--disable-component-update",
      "--disable-sync")))
  }
  window <- chromote::ChromoteSession$new(parent = browser_memory$browser, width = width, height = height)
  # Every answer of the browser may take as long as what is waited for below.
  window$default_timeout <- 60
  seen <- new.env()
  seen$urls <- character()
  window$Network$enable()
  window$Network$requestWillBeSent(callback_ = function(message) seen$urls <- c(seen$urls, message$request$url))
  window$Page$navigate(address)
  list(window = window, seen = seen)
}

browser_memory <- new.env()

js <- function(w, code) {
  found <- w$window$Runtime$evaluate(code, returnByValue = TRUE, awaitPromise = TRUE)
  if (!is.null(found$exceptionDetails)) stop(found$exceptionDetails$exception$description)
  found$result$value
}

# Waits until an expression of the page is true.
wait_for <- function(w, code, seconds = 60) {
  until <- Sys.time() + seconds
  repeat {
    if (isTRUE(tryCatch(js(w, paste0("!!(", code, ")")), error = function(e) FALSE))) {
      return(invisible(TRUE))
    }
    if (Sys.time() > until) stop("Waited in vain for ", code, "; the page says: ", substr(js(w, "document.body.innerText"), 1, 1500))
    Sys.sleep(.1)
  }
}

text_of <- function(w, selector) {
  wait_for(w, sprintf("document.querySelector(%s)", in_json(selector)))
  js(w, sprintf("document.querySelector(%s).textContent", in_json(selector)))
}

click <- function(w, selector) {
  at <- jsonlite::toJSON(selector, auto_unbox = TRUE)
  wait_for(w, sprintf("document.querySelector(%s)", at))
  js(w, sprintf("document.querySelector(%s).click()", at))
}

# A key pressed where the focus is.
press <- function(w, key, code = key, text = NULL, modifiers = 0) {
  virtual <- c(Enter = 13, Tab = 9, Escape = 27, ArrowDown = 40, ArrowUp = 38, " " = 32)
  number <- if (key %in% names(virtual)) virtual[[key]] else utf8ToInt(toupper(key))[1]
  w$window$Input$dispatchKeyEvent(type = "keyDown", key = key, code = code, text = text, modifiers = modifiers, windowsVirtualKeyCode = number)
  w$window$Input$dispatchKeyEvent(type = "keyUp", key = key, code = code, modifiers = modifiers, windowsVirtualKeyCode = number)
}

# A place of the page, once it is the one that shows: what is read next is not the place before.
go_to <- function(w, place) {
  js(w, sprintf("location.hash = %s", in_json(place)))
  wait_for(w, sprintf("document.querySelector('[data-place=\"%s\"]')", place))
}

# Until the work behind has ended.
wait_done <- function(w, seconds = 120) {
  Sys.sleep(.4)
  # Figures come after the numbers.
  wait_for(w, "document.querySelector('.desk-head h1') && !document.querySelector('.working') && document.querySelector('[aria-busy=false]')",
    seconds)
  Sys.sleep(.3)
}

shot <- function(w, path) {
  found <- w$window$Page$captureScreenshot()
  writeBin(jsonlite::base64_dec(found$data), path)
}

in_json <- function(text) as.character(jsonlite::toJSON(text, auto_unbox = TRUE))

# How many messages a page of an origin is sent that speaks to the desk's socket.
heard_by_page_of <- function(origin, address) {
  socket <- websocket::WebSocket$new(paste0(sub("^http", "ws", sub("[?].*", "", address)), "websocket/"), headers = list(Origin = origin))
  heard <- 0
  open <- TRUE
  socket$onMessage(function(event) heard <<- heard + 1)
  socket$onClose(function(event) open <<- FALSE)
  socket$onOpen(function(event) socket$send(in_json(list(method = "init", data = list(.clientdata_url_search = sub("^[^?]*", "", address))))))
  until <- Sys.time() + 5
  while (open && heard <= 3 && Sys.time() < until) later::run_now(.1)
  socket$close()
  heard
}

drag <- function(w, from, to) {
  js(w, sprintf("(function () { var d = new DataTransfer(); function fire(s, t) { document.querySelector(s).dispatchEvent(new DragEvent(t,
    {bubbles: true, cancelable: true, dataTransfer: d})); } fire(%s, 'dragstart'); fire(%s, 'dragover'); fire(%s, 'drop'); })()", in_json(from),
    in_json(to), in_json(to)))
}

pick <- function(w, selector, value) {
  wait_for(w, sprintf("document.querySelector(%s)", in_json(selector)))
  js(w, sprintf("(function () { var f = document.querySelector(%s); f.value = %s; f.dispatchEvent(new Event('change', {bubbles: true})); })()",
    in_json(selector), in_json(value)))
}

said <- function(w, text) wait_for(w, sprintf("document.getElementById('said').textContent.includes(%s)", in_json(text)))
shows <- function(w, text) wait_for(w, sprintf("document.querySelector('.desk-place').textContent.includes(%s)", in_json(text)))
figures <- function(w, scale) text_of(w, sprintf("[data-sheet=%s] .figures", scale))
undone <- function(w) {
  click(w, "[data-key=undo]")
  said(w, "Undone")
}

# What an automated check of accessibility finds; nothing it should.
violations <- function(w) {
  path <- Sys.glob(file.path(c(test_path("..", ".."), getwd()), ".checks/node_modules/axe-core/axe.min.js"))[1]
  if (is.na(path)) {
    if (identical(Sys.getenv("SCALEWORT_CHECKS"), "required")) stop("axe-core is not there: tools/setup.R checks brings it.")
    return(NULL)
  }
  js(w, paste(readLines(path, warn = FALSE), collapse = "\n"))
  unlist(js(w, "axe.run().then(r => r.violations.map(v => v.id + ' ' + v.nodes[0].html))"))
}

quick_plan <- function(folder, ...) {
  file.copy(system.file("extdata", c("plotholders.csv", "plotholders-draft-codebook.csv"), package = "scalewort"), folder)
  path <- file.path(folder, "plan.yml")
  writeLines(c("data: plotholders.csv", "codebook: plotholders-draft-codebook.csv", "id: id", "group: district", "dif: false", "stability: false",
    "retention: {replicates: 20}", "validity: {replicates: 20}", ...), path)
  path
}

# A file given to the page.
bring_in_file <- function(w, path) {
  root <- w$window$DOM$getDocument()$root$nodeId
  field <- w$window$DOM$querySelector(root, "#file")$nodeId
  w$window$DOM$setFileInputFiles(files = list(path), nodeId = field)
}

write_everything <- function(w, words = "Everything is written") {
  go_to(w, "write")
  wait_done(w)
  click(w, "[data-key=write]")
  said(w, words)
}

# The plan alone, elsewhere: the same tables, byte for byte.
expect_same_elsewhere <- function(folder, plan) {
  copy <- withr::local_tempdir()
  file.copy(setdiff(list.files(folder, full.names = TRUE), list.dirs(folder)), copy)
  testthat::expect_equal(run_process("run", file.path(copy, basename(plan)), "--quiet")$status, 0)
  results <- if (is.null(core("read_plan")(plan)$output)) "results" else core("read_plan")(plan)$output
  tables <- list.files(file.path(folder, results), "[.]csv$")
  testthat::expect_gt(length(tables), 5)
  testthat::expect_equal(unname(tools::md5sum(file.path(copy, results, tables))), unname(tools::md5sum(file.path(folder, results, tables))))
}

# The mouse, pressed on a node of the path diagram and let go on another (or the same).
node_of <- function(w, kind, name) {
  unlist(js(w, sprintf("(function () { var f = document.querySelector('.paths'); f.scrollIntoView({block: 'center', behavior: 'instant'});
    var b = f.querySelector('img').getBoundingClientRect(), n = JSON.parse(f.dataset.span).nodes.find(n => n.kind == %s && n.name == %s);
    return [b.left + n.x * b.width, b.top + n.y * b.height]; })()", in_json(kind), in_json(name))))
}

draw_on_path <- function(w, from, to = from) {
  wait_for(w, "document.querySelector('.paths img') && document.querySelector('.paths img').complete")
  # A place that was gone to has its head in view first.
  Sys.sleep(.7)
  one <- node_of(w, from[1], from[2])
  other <- node_of(w, to[1], to[2])
  mouse <- function(type, at) w$window$Input$dispatchMouseEvent(type = type, x = at[1], y = at[2], button = "left", clickCount = 1)
  mouse("mousePressed", one)
  mouse("mouseMoved", other)
  mouse("mouseReleased", other)
}
