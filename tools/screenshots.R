# Makes docs/screenshots/ from the demo data: the terminal output of the main
# commands, every figure, and the report. Needs Chromium.

library(scalewort)
folder <- "docs/screenshots"
dir.create(folder, recursive = TRUE, showWarnings = FALSE)

# Chromium's picture of a page, 1280 x 800 unless a height is given.
shoot <- function(page, name, height = 800) {
  profile <- tempfile("profile-")
  system2("chromium", c(
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--hide-scrollbars", paste0("--user-data-dir=", profile),
    paste0("--window-size=1280,", height), paste0("--screenshot=", normalizePath(folder), "/", name, ".png"),
    paste0("file://", normalizePath(page))
  ), stdout = FALSE, stderr = FALSE)
  unlink(profile, recursive = TRUE)
}

# A command's output as a terminal would show it.
shoot_terminal <- function(name, args) {
  out <- system2("./scalewort", args, stdout = TRUE, env = "R_CLI_NUM_COLORS=8")
  text <- paste(c(paste("$ scalewort", paste(args, collapse = " ")), out), collapse = "\n")
  text <- gsub("<", "&lt;", gsub("&", "&amp;", text, fixed = TRUE), fixed = TRUE)
  for (style in list(c("1", "22", "<b>", "</b>"), c("2", "22", "<i>", "</i>"), c("33", "39", "<em>", "</em>"))) {
    text <- gsub(paste0("\033\\[", style[1], "m(.*?)\033\\[", style[2], "m"), paste0(style[3], "\\1", style[4]), text, perl = TRUE)
  }
  page <- tempfile(fileext = ".html")
  writeLines(paste0(
    "<meta charset='utf-8'><style>body{margin:0;background:#16201f;color:#e8efed;padding:22px 28px}",
    "pre{font:15px/1.32 'DejaVu Sans Mono',monospace;margin:0}",
    "i{opacity:.6;font-style:normal} em{color:#e5c07b;font-style:normal}</style><pre>", text, "</pre>"
  ), page)
  shoot(page, paste0("terminal-", name), height = max(400, 60 + 20 * (length(out) + 2)))
}

demo <- c("--demo", "plotholders")
shoot_terminal("screen", c("screen", demo))
shoot_terminal("reliability", c("reliability", demo))
shoot_terminal("explore", c("explore", demo, "--factors", "4"))
shoot_terminal("confirm", c("confirm", demo))
shoot_terminal("invariance", c("invariance", demo, "--by", "district"))
shoot_terminal("score", c("score", demo))

output <- tempfile("demo-")
system2("./scalewort", c("demo", "--out", output, "--quiet"), stdout = FALSE)
for (figure in c("screening", "reliability", "retention", "exploration", "confirmation", "invariance")) {
  first <- sort(list.files(output, paste0("^figure-[0-9]+-", figure, ".png$"), full.names = TRUE))[1]
  file.copy(first, file.path(folder, paste0("figure-", figure, ".png")), overwrite = TRUE)
}
survey <- sw_demo("plotholders")
quiz <- sw_demo("plantcare")
draw <- function(figure, name) {
  path <- file.path(folder, paste0("figure-", name, ".png"))
  scalewort:::save_figure(figure, path)
}
draw(autoplot(sw_option_curves(quiz)), "option-curves")
draw(autoplot(sw_dif(survey)), "dif")
draw(autoplot(sw_answering(survey, time = "seconds")), "answering")
shoot(file.path(output, "report.html"), "report")

# The desk: the questionnaire beside the keying, the structure, an item's page.
library(testthat)
source("tests/testthat/helper-desk.R")
place <- tempfile("desk-")
dir.create(place)
desk <- desk_process("--demo", "plotholders", folder = place)
window <- desk_window(desk$address)
wait_for(window, "document.querySelector('.strip')")
wait_done(window)
click(window, "[data-item=kin3]")
click(window, "[data-tool=turn]")
wait_for(window, "document.getElementById('said').textContent")
wait_done(window)
for (one in c(desk = "confirmation", `desk-keying` = "keying", `desk-item` = "item/kin5")) {
  go_to(window, one)
  Sys.sleep(3)
  js(window, "document.getElementById('said').textContent = ''; document.activeElement.blur()")
  shot(window, file.path(folder, paste0(c(confirmation = "desk", keying = "desk-keying", `item/kin5` = "desk-item")[[one]], ".png")))
}
desk$process$kill()
message(length(list.files(folder, "png$")), " pictures in ", folder)
