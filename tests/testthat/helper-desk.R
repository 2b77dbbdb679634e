# The desk as a process and a browser that looks at it.

skip_without_browser <- function() {
  there <- requireNamespace("chromote", quietly = TRUE) && nzchar(Sys.which("chromium")) && requireNamespace("shiny", quietly = TRUE) &&
    requireNamespace("bslib", quietly = TRUE)
  if (!there && identical(Sys.getenv("SCALEWORT_CHECKS"), "required")) stop("The browser tests may not be skipped: chromote or Chromium is missing.")
  testthat::skip_if_not(there, "chromote, Chromium, shiny or bslib is not there")
}

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

text_of <- function(w, selector) js(w, sprintf("(document.querySelector(%s) || {}).textContent", jsonlite::toJSON(selector, auto_unbox = TRUE)))

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

go_to <- function(w, place) {
  js(w, sprintf("location.hash = %s", jsonlite::toJSON(place, auto_unbox = TRUE)))
  Sys.sleep(.3)
}

# Until the work behind has ended.
wait_done <- function(w, seconds = 120) {
  Sys.sleep(.5)
  wait_for(w, "document.querySelector('.desk-head h1') && !document.querySelector('.working')", seconds)
  # Figures come after the numbers.
  Sys.sleep(1.5)
}

shot <- function(w, path) {
  found <- w$window$Page$captureScreenshot()
  writeBin(jsonlite::base64_dec(found$data), path)
}
