# How many corrections drafts of made exports need, by the scorer that stands beside the checkout where it is there; and what `check` says of a plan.

folder <- testthat::test_path("..", "..", "..", "shared", "exports")
scorer <- file.path(folder, "score.R")

if (file.exists(scorer)) test_that("the drafts of the made exports need no more corrections than they may, none of them a silent guess", {
  made <- withr::local_tempdir()
  output <- function(...) {
    system2(file.path(R.home("bin"), "Rscript"), c(...), stdout = TRUE, stderr = TRUE, env = c("LC_ALL=C.UTF-8",
      paste0("R_LIBS=", paste(.libPaths(), collapse = ":"))))
  }
  output(shQuote(file.path(folder, "make_shared.R")), shQuote(made))
  command <- file.path(made, "command")
  writeLines(c("#!/bin/sh", paste("exec", shQuote(file.path(R.home("bin"), "Rscript")),
    shQuote(system.file("exec", "scalewort", package = "scalewort")), "\"$@\"")), command)
  Sys.chmod(command)
  told <- file.path(made, "told.json")
  output(shQuote(scorer), shQuote(made), "--command", shQuote(command), "--json", shQuote(told))
  found <- jsonlite::fromJSON(told)
  expect_equal(found$ended, rep("drafted", 12))
  expect_lte(sum(found$corrections), 5)
  expect_lte(max(found$corrections), 2)
  expect_equal(sum(found$silent), 0)
})

# A plan of six items in a folder; change: of the answers or the codebook before they are written.
planned <- function(folder, change = identity, more = character()) {
  made <- withr::with_seed(4, {
    f <- rnorm(120)
    x <- as.data.frame(lapply(stats::setNames(1:6, paste0("a", 1:6)), function(j) as.integer(cut(f + rnorm(120), c(-Inf, -1, 0, 1, Inf)))))
    list(data = cbind(id = 1:120, g = c("x", rep("y", 119)), x), book = data.frame(item = paste0("a", 1:6), scale = "A", lowest = 1, highest = 4,
      role = "scored"))
  })
  made <- change(made)
  data.table::fwrite(made$data, file.path(folder, "d.csv"))
  data.table::fwrite(made$book, file.path(folder, "b.csv"))
  writeLines(c("data: d.csv", "codebook: b.csv", "id: id", "group: g", "stability: false", "composites: false", "retention:", "  replicates: 20",
    more), file.path(folder, "plan.yml"))
  run_cli("check", "plan.yml", folder = folder)
}

test_that("a plan that can be followed is one that a run does not stop at: its answers are looked at", {
  folder <- withr::local_tempdir()
  with <- function(part, ...) {
    given <- list(...)
    function(made) {
      for (name in names(given)) made[[part]][[name]] <- given[[name]]
      made
    }
  }
  fine <- planned(folder)
  expect_equal(fine$status, 0)
  expect_match(fine$out, "120 cases answer 6 items", all = FALSE)
  expect_match(fine$out, "only one case in x", all = FALSE)
  wrong <- list(
    "a3: every case used gives the same answer" = list(with("data", a3 = 2)),
    "a2: 7 is outside 1 to 4" = list(with("data", a2 = rep(c(1:4, 7), 24))),
    "did you mean \"A_2\"" = list(function(made) {
      names(made$data)[4] <- "A_2"
      made
    }),
    "\"mid\" is not a number" = list(with("data", a1 = rep(c("mid", "1"), 60))),
    "names no item to analyse" = list(with("book", role = rep("aside", 6))),
    "`set_aside` stands more than once \\(lines 9 and 12\\)" = list(identity, rep(c("set_aside:", "  - items: [a1]", "    reason: x"), 2))
  )
  for (sentence in names(wrong)) {
    said <- do.call(planned, c(list(folder), wrong[[sentence]]))
    expect_equal(said$status, 3, info = sentence)
    expect_match(gsub("\\s+", " ", said$err), sentence)
  }
})
