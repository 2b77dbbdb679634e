# Every option of every command, run on the demo data inside this session: none may fail.

# Exit code and output of a command; files go to the folder.
in_session <- function(folder, ...) {
  output <- NULL
  code <- NA
  said <- utils::capture.output(type = "message", output <- utils::capture.output(
    code <- withr::with_dir(folder, core("cli_main")(c(..., "--overwrite", "--quiet")))
  ))
  list(code = unname(code), out = output, err = paste(said, collapse = "\n"))
}

plots <- c("--demo", "plotholders")
quiz <- c("--demo", "plantcare")
option_runs <- list(
  c("explore", plots, "--factors", "4", "--out", "e.rds"), c("confirm", plots, "--structure", "two.yml", "--out", "c.rds"),
  c("screen", plots, "--order", "easiness", "--patterns"),
  c("screen", "plotholders.csv", "--codebook", "plotholders-codebook.csv", "--id", "id", "--group", "district", "--missing-codes", "-9,-8",
    "--separator", ",", "--table", "flags", "--digits", "2", "--format", "json"),
  c("answering", plots, "--time", "seconds", "--robust", "--at-least", "1"), c("options", quiz, "--bands", "4", "--score", "rest", "--pages",
    "p.pdf"),
  c("dif", plots, "--by", "district", "--reference", "south", "--adjust", "BH", "--no-purify"),
  c("reliability", plots, "--missing", "pairwise", "--interval", "bonett", "--level", ".9", "--scale", "calm,craft", "--target", ".9", "--by",
    "district", "--weights", "calm=2,craft=1"),
  c("reliability", plots, "--interval", "percentile", "--replicates", "100"), c("reliability", plots, "--missing", "fiml", "--items", "calm",
    "--also", "district"),
  c("explore", plots, "--factors", "4", "--extraction", "minres", "--rotation", "oblimin", "--gamma", "-.5", "--normalise", "none", "--starts",
    "5", "--level", ".9", "--hide", ".2", "--multiplier", "bartlett", "--names", "a,b,c,d"),
  c("explore", plots, "--factors", "2", "--rotation", "geomin", "--epsilon", ".05", "--orthogonal", "--errors", "none", "--items", "calm,craft",
    "--correlation", "spearman", "--scores", "x.csv", "--score-kind", "bartlett", "--structure", "found.yml"),
  c("explore", plots, "--factors", "2", "--rotation", "promax", "--power", "3", "--errors", "bootstrap", "--replicates", "20"),
  c("explore", plots, "--factors", "2", "--rotation", "crawford_ferguson", "--kappa", ".1", "--missing", "pairwise", "--smooth", "--also",
    "district"),
  c("explore", plots, "--factors", "2", "--items", "calm1,calm2,calm4,craft1,craft2,craft4", "--rotation", "target", "--target", "target.csv"),
  c("explore", plots, "--factors", "4", "--drop", "calm6,kin5", "--reason", "weak"),
  c("factorability", plots, "--factors", "4", "--correlation", "polychoric"),
  c("factorability", plots, "--items", "calm,craft", "--missing", "pairwise", "--also", "district"),
  c("retention", plots, "--replicates", "50", "--percentile", ".9", "--against", "mean", "--draws", "shuffled", "--most", "3", "--smooth"),
  c("retention", plots, "--replicates", "50", "--items", "calm,craft", "--missing", "pairwise", "--correlation", "spearman", "--also", "district"),
  c("retention", plots, "--replicates", "20", "--items", "calm", "--comparison"),
  c("stability", plots, "--factors", "4", "--halves", "5", "--by", "district"),
  c("stability", plots, "--factors", "2", "--halves", "5", "--extraction", "paf", "--rotation", "oblimin", "--gamma", "0", "--normalise", "none",
    "--starts", "5", "--items", "calm,craft", "--correlation", "spearman"),
  c("stability", plots, "--factors", "2", "--halves", "5", "--rotation", "geomin", "--epsilon", ".02", "--orthogonal"),
  c("stability", plots, "--factors", "2", "--halves", "5", "--rotation", "crawford_ferguson", "--kappa", ".1"),
  c("stability", plots, "--factors", "2", "--halves", "5", "--rotation", "promax", "--power", "3"),
  c("stability", plots, "--factors", "2", "--halves", "5", "--items", "calm1,calm2,calm4,craft1,craft2,craft4", "--rotation", "target", "--target",
    "target.csv"),
  c("report", quiz, "--out", "r.docx", "--title", "T", "--author", "A", "--language", "de", "--theme", "dark", "--reference", "mine.docx",
    "--checklist"),
  c("invariance", "both.csv", "--codebook", "plotholders-codebook.csv", "--id", "id", "--structure", "two.yml", "--across", "wave", "--no-twins"),
  c("bounds", plots, "--structure", "two.yml", "--cutoff", ".4", "--estimator", "ml", "--size", ".3", "--replicates", "50"),
  c("split", plots, "--share", ".6", "--method", "matched", "--tries", "3", "--out", "halves"),
  c("split", plots, "--method", "stratified", "--by", "district", "--format", "csv"),
  c("confirm", plots, "--structure", "e.rds", "--cutoff", ".5", "--trust"),
  c("confirm", plots, "--structure", "two.yml", "--estimator", "robust", "--missing", "listwise", "--scaling", "first", "--improper", "bound",
    "--cluster", "id", "--level", ".9"),
  c("confirm", plots, "--structure", "two.yml", "--weight", "seconds", "--also", "district,seconds"),
  c("confirm", plots, "--drop", "calm6", "--reason", "no fit", "--diagram", "d.svg", "--figure", "residuals", "--scores", "f.csv", "--score-kind",
    "tenberge"),
  c("confirm", plots, "--structure", "two.yml", "--scaling", "effects", "--diagram", "d.pdf", "--figure", "loadings"),
  c("compare", plots, "--structures", "one.yml,two.yml", "--estimator", "robust"),
  c("invariance", plots, "--structure", "two.yml", "--by", "district", "--steps", "configural,metric,scalar", "--free", "--free-intercepts",
    "calm1", "--diagram", "i.png", "--figure", "item"),
  c("invariance", plots, "--structure", "two.yml", "--by", "district", "--align", "--also", "seconds", "--free-loadings", "calm1",
    "--free-residuals", "calm2",
    "--missing", "listwise", "--cutoff", ".4"),
  c("invariance", plots, "--structure", "two.yml", "--by", "district", "--estimator", "ordinal", "--free-thresholds", "calm1"),
  c("validity", plots, "--replicates", "50", "--geometric", "--level", ".9", "--outside", "seconds=+", "--corrected"),
  c("validity", plots, "--trust", "--structure", "e.rds", "--cutoff", ".5", "--estimator", "robust", "--replicates", "50"),
  c("validity", plots, "--trust", "--structure", "c.rds", "--replicates", "50"),
  c("composites", plots, "--trust", "--structure", "e.rds", "--cutoff", ".5", "--level", ".9", "--replicates", "20", "--missing", "fiml", "--also",
    "district"),
  c("composites", plots, "--mode", "calm=A,craft=B,kinship=A,stewardship=A", "--leads", "calm=craft+kinship", "--scheme", "centroid",
    "--consistent", "--replicates", "20", "--scores", "cs.csv"),
  c("influence", plots, "--structure", "two.yml", "--cutoff", ".4", "--estimator", "robust", "--worst", "2"),
  c("power", plots, "--df", "50", "--n", "100,200", "--power", ".9", "--level", ".01"),
  c("power", plots, "--structure", "two.yml", "--parameter", "calm1,calm", "--replicates", "50", "--loading", ".6", "--correlation", ".2", "--n",
    "100", "--cutoff", ".4"),
  c("score", plots, "--method", "mean,sum", "--at-least", ".5", "--fill", "none", "--total", "--form", "z,t", "--interval", "--level", ".9",
    "--groups", "3", "--of", "calm_mean", "--labels", "low,middle,high"),
  c("score", plots, "--method", "weighted", "--item-weights", "calm1=2,calm2=1", "--fill", "expected", "--also", "district"),
  c("score", plots, "--form", "mean=100,sd=15", "--norms", "district=north", "--cuts", "calm_mean=2,calm_mean=4"),
  c("score", plots, "--form", "t", "--norms", "plotholders-norms.csv", "--pass", "calm_mean=3,calm_mean_t=60"),
  c("score", quiz, "--method", "right", "--pass", "8"),
  c("score", plots, "--trust", "--from", "c.rds"), c("score", plots, "--trust", "--from", "e.rds", "--method", "bartlett"),
  c("score", plots, "--out", "sc.csv", "--schema", "--codes", "--describe"), c("score", plots, "--out", "sc.xlsx"), c("score", plots, "--out",
    "sc.tsv"),
  c("explain", plots, "--case", "P277", "--method", "mean,sum", "--at-least", ".5", "--form", "t"),
  c("explain", "both.csv", "--codebook", "plotholders-codebook.csv", "--id", "id", "--wave", "wave", "--case", "P277", "--of-wave", "1"),
  c("simulate", plots, "--n", "50", "--loading", ".6", "--correlation", ".2", "--categories", "4", "--skew", ".5", "--share-missing", ".1",
    "--path", ".6", "--out", "sim.csv"),
  c("simulate", "--structure", "two.yml", "--cutoff", ".4", "--categories", "0"), c("keying", plots, "--format", "md", "--out", "k.md"),
  c("completion", "zsh"), c("man")
)

test_that("every option runs, and writes only what it names", {
  folder <- withr::local_tempdir()
  file.copy(system.file("extdata", c("plotholders.csv", "plotholders-codebook.csv", "plotholders-norms.csv"), package = "scalewort"), folder)
  writeLines(c("factors:", "  calm: [calm1, calm2, calm3]", "  craft: [craft1, craft2, craft4]"), file.path(folder, "two.yml"))
  writeLines(c("factors:", "  all: [calm1, calm2, calm3, craft1, craft2, craft4]"), file.path(folder, "one.yml"))
  waves <- lapply(c("plotholders.csv", "plotholders-wave2.csv"), function(f) utils::read.csv(system.file("extdata", f, package = "scalewort")))
  utils::write.csv(do.call(rbind, waves), file.path(folder, "both.csv"), row.names = FALSE)
  writeLines(c("item,F1,F2", "calm1,,0", "calm2,,0", "calm4,,0", "craft1,0,", "craft2,0,", "craft4,0,"), file.path(folder, "target.csv"))
  file.copy(system.file("report", "reference.docx", package = "scalewort"), file.path(folder, "mine.docx"))
  for (args in option_runs) {
    run <- in_session(folder, args)
    expect_identical(run$code, 0L, info = paste(paste(args, collapse = " "), run$err))
  }
  named <- unlist(lapply(option_runs, function(args) args[c(FALSE, args[-length(args)] %in% c("--out", "--diagram", "--scores", "--pages"))]))
  given <- c("plotholders.csv", "plotholders-codebook.csv", "plotholders-norms.csv", "one.yml", "two.yml", "both.csv", "target.csv", "mine.docx",
    "found.yml")
  expect_setequal(list.files(folder), c(named, given, "sc.schema.json", "sc-codebook.csv"))
})

test_that("no option of any command is left unrun", {
  commands <- core("cli_commands")()
  used <- lapply(split(option_runs, vapply(option_runs, `[`, "", 1)), unlist)
  # These two take a folder, and are run by test-cli-main.R and test-codebook-by-hand.R.
  # Those of `open` are run with a browser, in test-desk-browser.R.
  used <- c(used, list(demo = "--out",
    start = c("--out", "--codebook", "--key", "--layout", "--sheet"), open = c("--demo", "--out", "--port", "--no-browser")))
  for (name in names(commands)) {
    # Those of reading, giving and every command are run once, by some command.
    entries <- Filter(function(entry) is.null(entry$common), core("command_entries")(name, commands[[name]]))
    expect_equal(setdiff(vapply(entries, `[[`, "", "flag"), used[[name]]), character(), info = name)
  }
})

test_that("an option's name is never taken for the beginning of another, and a value may begin with a minus", {
  options <- structure(list(outside = "age=+", format = "text"), class = "cli_options")
  expect_null(options$out)
  expect_null(options$form)
  expect_equal(options$outside, "age=+")
  entries <- core("command_entries")("screen", core("cli_commands")()$screen)
  joined <- core("joined_values")(c("a.csv", "--missing-codes", "-9,-8", "--seed", "3", "--quiet", "-5"), entries)
  expect_equal(joined, c("a.csv", "--missing-codes=-9,-8", "--seed", "3", "--quiet", "-5"))
})
