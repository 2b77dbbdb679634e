# How the cost grows with items and with people: for each verb the time in units of one eigen() of 50 x 50, measured beside it, the exponent
# fitted over the larger half of the sizes, and where the series stops: at an error, with its message, or where the next size would
# take more than `most` seconds.
#
#   Rscript bench/growth.R [most seconds a size, 60]

library(scalewort)
most <- commandArgs(TRUE)
most <- if (length(most) > 0) as.numeric(most[1]) else 60

answers_of <- function(people, items, missing = 0) {
  set.seed(1)
  factors <- max(items %/% 10, 1)
  population <- kronecker(diag(factors), matrix(.7, items %/% factors, 1))
  x <- matrix(rnorm(people * factors), people) %*% chol(matrix(.3, factors, factors) + diag(.7, factors)) %*% t(population) +
    matrix(rnorm(people * nrow(population), 0, sqrt(.51)), people)
  x[] <- findInterval(x, c(-1.5, -.5, .5, 1.5)) + 1
  if (missing > 0) x[runif(length(x)) < missing] <- NA
  colnames(x) <- paste0("i", seq_len(ncol(x)))
  book <- data.frame(item = colnames(x), scale = rep(paste0("s", seq_len(factors)), each = nrow(population) / factors), lowest = 1, highest = 5)
  sw_survey(cbind(as.data.frame(x), place = rep(c("a", "b"), length.out = people)), book, group = "place")
}

verbs <- list(
  reliability = function(s) sw_reliability(s), polychoric = function(s) sw_moments(s, correlation = "polychoric"),
  retention = function(s) sw_retention(s, replicates = 100), exploration = function(s) sw_explore(s, length(unique(s$codebook$items$scale))),
  ml = function(s) sw_confirm(s, estimator = "ml"), robust = function(s) sw_confirm(s, estimator = "robust"),
  ordinal = function(s) sw_confirm(s, estimator = "ordinal"), fiml = function(s) sw_confirm(s, estimator = "ml"),
  invariance = function(s) sw_invariance(s, estimator = "ml")
)
gaps <- c(fiml = .02)

unit_now <- function() {
  r <- cor(matrix(rnorm(200 * 50), 200))
  system.time(for (i in 1:100) eigen(r, symmetric = TRUE))[["elapsed"]] / 100
}

series <- function(name, sizes, along) {
  rows <- list()
  told <- ""
  for (size in sizes) {
    missing <- if (name %in% names(gaps)) gaps[[name]] else 0
    survey <- if (along == "items") answers_of(1000, size, missing) else answers_of(size, 20, missing)
    unit <- unit_now()
    failed <- NULL
    taken <- system.time(tryCatch(verbs[[name]](survey), error = function(e) failed <<- conditionMessage(e)))[["elapsed"]]
    if (!is.null(failed)) {
      told <- paste0("stops at ", size, ": ", strsplit(failed, "\n")[[1]][1])
      break
    }
    rows[[length(rows) + 1]] <- data.frame(verb = name, along, size, units = signif(taken / unit, 3))
    if (taken * 4 > most && size < max(sizes)) {
      told <- paste0("stops after ", size, ", which took ", round(taken), " s")
      break
    }
  }
  table <- do.call(rbind, rows)
  upper <- if (NROW(table) > 1) utils::tail(table, max(2, ceiling(nrow(table) / 2)))
  exponent <- if (is.null(upper)) NA else round(stats::coef(stats::lm(log(units) ~ log(size), upper))[[2]], 2)
  cat(sprintf("%-12s %-7s exponent %s%s\n", name, along, format(exponent), if (nzchar(told)) paste0("; ", told) else ""))
  table
}

tables <- c(
  lapply(names(verbs), series, sizes = c(20, 50, 100, 200, 400), along = "items"),
  lapply(names(verbs), series, sizes = c(1e3, 1e4, 1e5, 1e6), along = "people")
)
print(do.call(rbind, tables), row.names = FALSE)
