# Small and messy made-up surveys through every verb with random legal options: 25 to 70 people, 0/1 and five-point answers, up to a third missing, a
# copied and a constant item, weights, clusters, groups of eight, waves, booklets in which groups saw other items. Every outcome is a result or a
# classed condition, every result prints, and is drawn where it has a figure; anything else is listed with the number that repeats it.
#
#   Rscript tools/fuzz-samples.R [how many, 600] [from which number, 1]
suppressMessages(library(scalewort))
options(warn = 1)
grDevices::pdf(NULL)
given <- as.integer(commandArgs(trailingOnly = TRUE))
many <- if (length(given) > 0) given[1] else 600L
from <- if (length(given) > 1) given[2] else 1L
table <- getFromNamespace("options_table", "scalewort")()$verbs
chance <- function(p) runif(1) < p
pick <- function(x) x[[sample(length(x), 1)]]

made_survey <- function() {
  n <- sample(25:70, 1)
  k <- sample(4:10, 1)
  f <- matrix(rnorm(2 * n), n)
  x <- sapply(seq_len(k), function(j) sample(c(.2, .5, .8), 1) * f[, 1 + (j > k / 2)] + rnorm(n))
  two <- chance(.4)
  x[] <- if (two) as.integer(x > .3) else findInterval(x, c(-1.5, -.5, .5, 1.5)) + 1L
  if (chance(.3)) x[, k] <- x[, 1]
  if (chance(.2)) x[, 2] <- x[1, 2]
  if (chance(.6)) x[matrix(runif(n * k) < runif(1, 0, .33), n)] <- NA
  group <- if (chance(.5)) sample(c("a", "b"), n, TRUE) else rep_len(letters[1:8], n)
  if (chance(.2)) x[group %in% c("a", "c", "e"), 1] <- NA
  if (chance(.1)) x[group %in% c("b", "d"), 3] <- NA
  items <- paste0("q", seq_len(k))
  data <- data.frame(id = seq_len(n), `colnames<-`(x, items), group = group, weight = round(runif(n, .3, 3), 1), class = rep_len(1:sample(2:12, 1),
    n))
  wave <- chance(.25)
  if (wave) {
    later <- data[sample(n, ceiling(n * .7)), ]
    if (chance(.3)) later[items] <- data[match(later$id, data$id), items] + 0L
    data <- rbind(cbind(data, wave = 1), cbind(later, wave = 2))
  }
  book <- data.frame(item = items, scale = if (chance(.7)) rep(c("s", "t"), each = ceiling(k / 2))[seq_len(k)] else "s", lowest = if (two) 0 else 1,
    highest = if (two) 1 else 5, direction = sample(c("forward", "reversed"), k, TRUE, c(.8, .2)))
  sw_survey(data, book, id = "id", wave = if (wave) "wave", group = "group", weight = if (chance(.15)) "weight", cluster = if (chance(.15)) "class")
}

# A legal value of an option.
value_of <- function(entry) {
  small <- list(replicates = 60, m = 2, iterations = 1, starts = 3, halves = 6, samples = 30)
  if (entry$name %in% names(small)) return(small[[entry$name]])
  switch(entry$kind, choice = pick(as.list(entry$choices)), choices = as.character(pick(as.list(entry$choices))), flag = chance(.5),
    number = if (length(entry$range) == 2) runif(1, max(entry$range[1], -2), min(entry$range[2], 5)), whole = if (length(entry$range) == 2)
      sample(seq(max(entry$range[1], 1), min(entry$range[2], 6)), 1), by = , text = if (entry$name %in% c("by", "across")) "group")
}

random_options <- function(verb, f) {
  entries <- Filter(function(e) e$name %in% names(formals(f)) && "r" %in% e$places && !e$kind %in% c("file", "limits"), table[[verb]]$options)
  chosen <- entries[sample(length(entries), min(length(entries), sample(0:3, 1)))]
  Filter(Negate(is.null), lapply(stats::setNames(chosen, vapply(chosen, `[[`, "", "name")), value_of))
}

# The survey's own structure, one factor, and an item more on the first.
rivals_of <- function(survey) {
  own <- sw_structure(survey)
  items <- unlist(own$factors, use.names = FALSE)
  c(list(own = own, one = sw_structure(all = items)), if (length(own$factors) > 1)
    list(crossed = sw_add_loading(own, items[length(items)], names(own$factors)[1]), pair = sw_add_pair(own, items[1], items[2])))
}

of_survey <- c("keying", "screen", "answering", "option_curves", "dif", "reliability", "factorability", "retention", "explore", "confirm",
  "invariance",
  "composites", "score", "split", "impute", "stability", "resample", "moments")

tried <- function(seed) {
  set.seed(seed)
  survey <- made_survey()
  verb <- if (chance(.8)) pick(as.list(of_survey)) else pick(list("validity", "bounds", "compare", "band", "explain",
    "influence", "reorder", "congruence", "power", "draft_codebook", "rotate", "join_options", "simulate", "report", "written"))
  f <- get0(paste0("sw_", verb), asNamespace("scalewort"))
  options <- if (!is.null(table[[verb]]) && !is.null(f)) random_options(verb, f) else list()
  if (verb %in% c("explore", "stability")) options$factors <- sample(1:3, 1)
  if (verb == "retention") options$replicates <- 30
  if (verb == "resample") options <- list(statistic = function(m) c(mean = mean(m$covariance)), replicates = 60)
  if (verb == "invariance" && !is.null(survey$wave) && chance(.5)) options <- c(options[setdiff(names(options), c("by", "across"))], across = "wave")
  result <- switch(verb,
    validity = sw_validity(sw_confirm(survey), replicates = 40), bounds = sw_bounds(sw_confirm(survey, estimator = "ml"), replicates = 50),
    compare = do.call(sw_compare, lapply(rivals_of(survey), sw_confirm, x = survey, estimator = pick(list("auto", "ml", "robust", "uls",
      "ordinal")))),
    congruence = sw_compare(sw_explore(survey, 2), sw_structure(survey)), power = sw_power(sw_confirm(survey)),
    draft_codebook = sw_draft_codebook(survey$source$data), rotate = sw_rotate(sw_explore(survey, 2, rotation = "none"), pick(list("geomin",
      "varimax"))),
    join_options = sw_reliability(sw_join_options(survey, least = 3)), influence = sw_influence(sw_confirm(survey)),
    simulate = sw_simulate(sw_confirm(survey), n = 40, seed = 1),
    report = sw_report(sw_reliability(survey), withr::local_tempfile(fileext = ".html")),
    written = sw_write(sw_score(survey), withr::local_tempfile(fileext = pick(list(".csv", ".xlsx", ".sav", ".dta", ".json")))),
    band = sw_band(sw_score(survey), groups = 3), explain = sw_explain(sw_score(survey), 1),
    reorder = summary(sw_reliability(survey)), do.call(f, c(list(survey), options)))
  utils::capture.output(print(result))
  if (inherits(result, "sw_result")) {
    utils::capture.output(print(summary(result)))
    figure <- tryCatch(autoplot(result), scalewort_error_input = function(e) NULL)
    if (!is.null(figure)) ggplot2::ggplot_build(figure)
  }
  "a result"
}

outcome <- function(seed) {
  leaked <- character()
  said <- tryCatch(withCallingHandlers(tried(seed), warning = function(w) {
    if (!inherits(w, "scalewort_warning")) leaked <<- c(leaked, conditionMessage(w))
    tryInvokeRestart("muffleWarning")
  }), scalewort_error = function(e) "a classed error", error = function(e) paste("ERROR:", conditionMessage(e), "in", deparse(conditionCall(e))[1]))
  if (length(leaked) > 0 && !startsWith(said, "ERROR")) paste("WARNING:", leaked[1]) else said
}

seeds <- seq(from, length.out = many)
found <- vapply(seeds, outcome, "")
wrong <- grepl("^(ERROR|WARNING):", found)
for (i in which(wrong)) cat(seeds[i], ": ", found[i], "\n", sep = "")
cat(sprintf("%d samples: %d results, %d classed errors, %d wrong\n", many, sum(found == "a result"), sum(found == "a classed error"), sum(wrong)))
quit(status = if (any(wrong)) 1 else 0)
