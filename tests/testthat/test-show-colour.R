# What only a terminal sees: colour and progress.

# Runs the command line inside a terminal of its own; its screen as text with escapes.
in_a_terminal <- function(..., variables = character()) {
  skip_without("a terminal")
  script <- system.file("exec", "scalewort", package = "scalewort")
  command <- paste(c(file.path(R.home("bin"), "Rscript"), shQuote(c(script, ...))), collapse = " ")
  screen <- withr::local_tempfile()
  withr::with_envvar(c(TERM = "xterm", NO_COLOR = NA, variables), system2("script", c("-qec", shQuote(command), "/dev/null"),
    stdout = screen, stdin = "/dev/null"))
  readLines(screen, warn = FALSE)
}

escape <- "\033["

test_that("colour is there on a terminal alone, and marks the answer and the notes", {
  lines <- c("An answer", "in two lines.", "", "  item  r", "  a    .3", "", "n = 5.", "", "! Look at a.", "  It is low.", "",
    "More: summary(x),", "and more.")
  plain <- core("coloured")(lines, colours = 1)
  expect_identical(plain, lines)
  seen <- core("coloured")(lines, colours = 8)
  expect_equal(cli::ansi_strip(seen), lines)
  expect_equal(which(seen != lines), c(1, 2, 9, 12, 13))
  expect_equal(core("coloured")(character(), 8), character())
  expect_equal(which(core("coloured")(c("No empty", "line."), 8) != c("No empty", "line.")), 1)
  run <- run_cli("keying", "--demo", "plotholders-draft")
  expect_false(any(grepl(escape, c(run$out, run$err), fixed = TRUE)))
})

test_that("NO_COLOR is respected on a terminal, and errors stand out there", {
  shown <- in_a_terminal("keying", "--demo", "plotholders-draft")
  expect_match(shown[1], "\033[1m1 item points", fixed = TRUE)
  expect_true(any(startsWith(shown, "\033[33m!")))
  expect_false(any(grepl("\033[1m", in_a_terminal("keying", "--demo", "plotholders-draft", "--table", "scales"), fixed = TRUE)))
  bare <- in_a_terminal("keying", "--demo", "plotholders-draft", variables = c(NO_COLOR = "1"))
  expect_match(bare[1], "^1 item points")
  expect_false(any(grepl("\033[1m", bare, fixed = TRUE) | grepl("\033[33m", bare, fixed = TRUE)))
  expect_match(in_a_terminal("keying", "--bogus")[1], "\033[1mError:\033[22m There is no option --bogus", fixed = TRUE)
})

test_that("a long series shows how far it is, unless told to be quiet, and gives what lapply gives", {
  slow <- function(i) {
    Sys.sleep(.02)
    i^2
  }
  withr::local_options(scalewort.progress = FALSE)
  expect_silent(found <- core("over_series")(c(2, 5), "Turn", function(x) x + 1))
  expect_equal(found, list(3, 6))
  withr::local_options(scalewort.progress = TRUE, cli.progress_show_after = 0, cli.dynamic = FALSE)
  expect_message(found <- core("over_series")(1:30, "Turn", slow), "Turn [0-9]+ of 30")
  expect_equal(unlist(found), (1:30)^2)
})
