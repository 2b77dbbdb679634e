# Inputs that nobody meant: files damaged at random, verbs with random legal options, and changes that
# must not change a result. Every outcome is a classed condition or a result; anything else is listed with
# the number that repeats it.
#
#   Rscript tools/fuzz.R [how many, 2000] [from which number, 1]
suppressMessages(library(scalewort))
options(warn = -1)
given <- as.integer(commandArgs(trailingOnly = TRUE))
many <- if (length(given) > 0) given[1] else 2000L
from <- if (length(given) > 1) given[2] else 1L
folder <- tempfile("fuzz-")
dir.create(folder)
shipped <- function(name) system.file("extdata", name, package = "scalewort", mustWork = TRUE)
survey <- sw_keep(sw_demo("plotholders"), cases = seq_len(640) <= 160, reason = "fewer")
quiz <- sw_keep(sw_demo("plantcare"), cases = seq_len(500) <= 160, reason = "fewer")
held <- sw_confirm(survey, missing = "listwise")
pick <- function(x) x[[sample(length(x), 1)]]

# One or two changes to the bytes of a file, at random places.
damaged <- function(path, ending = tools::file_ext(path)) {
  bytes <- readBin(path, "raw", file.size(path))
  for (turn in seq_len(sample(2, 1))) {
    at <- sample(length(bytes), 1)
    piece <- seq(at, min(length(bytes), at + sample(8, 1)))
    bytes <- switch(sample(7, 1),
      replace(bytes, at, as.raw(sample(0:255, 1))), bytes[-piece], append(bytes, bytes[piece], at), bytes[seq_len(max(at, length(bytes) %/% 2))],
      append(bytes, as.raw(sample(c(9, 10, 13, 34, 39, 44, 58, 59, 91, 123, 45, 35, 0, 255), 3)), at),
      append(bytes, charToRaw(pick(list("NA", "1e309", "-9", "=1+1", "\u00e4", "0x1F", "1,5", "Inf", "'", "- a: ", "\t", "..", "null"))), at),
      replace(bytes, piece, rev(bytes[piece]))
    )
    if (length(bytes) == 0) bytes <- as.raw(10)
  }
  out <- file.path(folder, paste0("mutant.", ending))
  writeBin(bytes, out)
  out
}

plan <- file.path(folder, "plan.yml")
invisible(file.copy(shipped(c("plotholders.csv", "plotholders-codebook.csv")), folder))
writeLines(c("data: plotholders.csv", "codebook: plotholders-codebook.csv", "id: id", "group: district", "seed: 3", "flip:", "  - items: [kin3]",
  "    reason: worded against", "limits:", "  alpha: [0.7, 0.9]", "exploration:", "  factors: 4", "  rotation: geomin", "confirmation:",
  "  estimator: robust", "scores:", "  method: [mean, sum]", "  form: [t]", "reports: [html]"), plan)
structure_file <- file.path(folder, "structure.yml")
sw_write(sw_structure(survey) |> sw_add_pair("craft5", "craft6") |> sw_fix("calm6", "calm", value = .1) |> sw_add_higher("all", c("calm", "craft",
  "kinship")), structure_file)
layout <- file.path(folder, "packed.txt")
writeLines(vapply(1:80, function(i) paste(c(sprintf("%03d", i), ifelse(is.na(unlist(survey$answers[i, 1:10])), 9, unlist(survey$answers[i, 1:10]))),
  collapse = ""), ""), layout)

read_data <- function() sw_score(sw_read(damaged(shipped("plotholders.csv")), shipped("plotholders-codebook.csv"), id = pick(list(NULL, "id"))))
books <- list("plotholders-codebook.csv", "plantcare-codebook.csv", "plotholders-draft-codebook.csv")
read_book <- function() sw_codebook(damaged(shipped(pick(books))))
read_plan <- function() {
  mutant <- damaged(plan)
  sw_run(mutant, check = TRUE)
}
read_structure <- function() sw_confirm(sw_moments(survey), sw_structure(damaged(structure_file)))
read_packed <- function() {
  sw_read(damaged(layout), data.frame(item = paste0("i", 1:10), lowest = 1, highest = 5, missing = "9"), layout = c(id = "1-3", answers = "4-13"))
}
drafted <- function() sw_draft_codebook(damaged(shipped("plotholders.csv")))

# Verbs with options that are legal one by one.
any_of <- function(...) pick(list(...))
verb <- function() {
  switch(sample(14, 1),
    sw_screen(survey, order = any_of("codebook", "easiness")),
    sw_reliability(any_of(survey, quiz), missing = any_of("listwise", "pairwise", "em"), interval = any_of("feldt", "bonett", "percentile", "bca"),
      replicates = 100, target = any_of(NULL, .9), by = any_of(NULL, "district"), level = runif(1, .5, .99)),
    sw_explore(survey, sample(1:6, 1), extraction = any_of("ml", "minres", "paf", "gls", "pca", "alpha"), rotation = any_of("varimax", "oblimin",
      "geomin", "promax", "infomax", "bigeomin", "none"), correlation = any_of("pearson", "spearman", "polychoric"),
      missing = any_of("listwise", "pairwise"), normalise = any_of("kaiser", "none"), starts = 5, errors = any_of("none", "analytic")),
    sw_confirm(survey, estimator = any_of("ml", "robust", "gls", "uls", "ordinal"), scaling = any_of("variance", "first", "effects"),
      improper = any_of("keep", "bound", "refuse"), level = runif(1, .5, .99)),
    sw_score(any_of(survey, quiz), method = any_of("mean", "sum", "share", "right", "weighted"), at_least = runif(1), fill = any_of("person", "none"),
      total = any_of(TRUE, FALSE), form = any_of(NULL, "t", c("z", "percentile", "stanine"), c(mean = 100, sd = 15)), interval = any_of(TRUE, FALSE),
      weights = any_of(NULL, c(calm1 = 2))),
    sw_score(survey, from = held, method = any_of("regression", "bartlett", "tenberge")),
    sw_band(sw_score(any_of(survey, quiz)), groups = any_of(NULL, 2, 5), pass = any_of(NULL, 3, c(calm_mean = 2.5))),
    sw_dif(any_of(survey, quiz), by = any_of("district", "id", NULL), adjust = any_of("BH", "holm", "none")),
    sw_option_curves(any_of(survey, quiz), bands = sample(2:6, 1), score = any_of("total", "rest")),
    sw_answering(survey, time = any_of(NULL, "seconds", "district"), robust = any_of(TRUE, FALSE), at_least = sample(1:4, 1)),
    sw_invariance(survey, sw_structure(calm = paste0("calm", 1:sample(2:5, 1)), craft = paste0("craft", 1:4)), by = any_of("district", "seconds"),
      estimator = any_of("ml", "robust"), missing = "listwise", release = any_of(NULL, "auto")),
    sw_composites(survey, scheme = any_of("path", "factor", "centroid"), mode = any_of("A", "B"), consistent = any_of(TRUE, FALSE), replicates = 0),
    sw_validity(held, replicates = any_of(0, 20), geometric = any_of(TRUE, FALSE)),
    sw_retention(survey, replicates = 50, against = any_of("mean", "percentile"), missing = any_of("listwise", "pairwise"))
  )
}

# What must not change a result.
same <- function(a, b, what, tolerance = 1e-6) {
  equal <- all.equal(a, b, tolerance = tolerance, check.attributes = FALSE)
  if (!isTRUE(equal)) stop("changed by ", what, ": ", equal[1])
}
again <- function(data, book) sw_survey(data, book, id = "id", group = "district")
metamorphic <- function() {
  data <- survey$data[survey$kept, ]
  book <- survey$codebook
  base <- again(data, book)
  what <- any_of("rows", "items", "reversal", "shift")
  if (what == "rows") other <- again(data[sample(nrow(data)), ], book)
  if (what == "items") {
    other <- book
    other$items <- other$items[sample(nrow(other$items)), ]
    other <- again(data[sample(ncol(data))], other)
  }
  if (what == "reversal") other <- sw_flip(sw_flip(base, "calm1", reason = "there"), "calm1", reason = "and back")
  if (what == "shift") {
    moved <- data
    other <- book
    items <- book$items$item[book$items$role == "scored"]
    for (item in items) moved[[item]] <- base$answers[[item]] + 2
    other$items[c("lowest", "highest")] <- other$items[c("lowest", "highest")] + 2
    other$items$missing <- NA_character_
    other <- again(moved, other)
  }
  alpha <- function(x) {
    table <- tidy(sw_reliability(x))
    table[order(table$scale), c("alpha", "omega", "n", "inter_item_r")]
  }
  same(alpha(base), alpha(other), what)
  two <- sw_structure(calm = paste0("calm", 1:5), craft = paste0("craft", 1:6))
  fit <- function(x) glance(sw_confirm(x, two))[c("chi_square", "cfi", "rmsea", "srmr")]
  same(fit(base), fit(other), what, 1e-5)
  screened <- function(x) {
    table <- tidy(sw_screen(x))
    table[order(table$item), c("sd", "item_rest_r", "missing")]
  }
  same(screened(base), screened(other), what)
}

kinds <- list(data = read_data, codebook = read_book, plan = read_plan, structure = read_structure, packed = read_packed, draft = drafted,
  verb = verb, same = metamorphic)
chance <- c(10, 20, 20, 12, 14, 4, 14, 6)
tally <- matrix(0L, length(kinds), 3, dimnames = list(names(kinds), c("result", "classed", "wrong")))
started <- Sys.time()
for (number in seq(from, length.out = many)) {
  set.seed(number)
  kind <- sample(names(kinds), 1, prob = chance)
  outcome <- tryCatch({
    kinds[[kind]]()
    "result"
  }, scalewort_error = function(e) "classed", error = function(e) conditionMessage(e))
  if (!outcome %in% colnames(tally)) {
    cat("-- ", number, " (", kind, "): ", substr(gsub("\n", " ", outcome), 1, 200), "\n", sep = "")
    outcome <- "wrong"
  }
  tally[kind, outcome] <- tally[kind, outcome] + 1L
}
print(tally)
tally <- colSums(tally)
cat(sprintf("%.0f inputs in %.0f s: %.0f results, %.0f classed conditions, %.0f wrong\n", many,
  as.numeric(difftime(Sys.time(), started, units = "secs")), tally["result"], tally["classed"], tally["wrong"]))
quit(status = if (tally["wrong"] > 0) 1 else 0)
