# Does a confirmation's test reject a true structure as often as it should, and do intervals
# cover, with normal answers, heavy tails, missing answers and few categories? Draws samples
# from a known structure and prints a table; takes some minutes.
#
#   Rscript bench/simulation-confirm.R [samples per row]

library(scalewort)
samples <- as.integer(c(commandArgs(TRUE), 500)[1])
loading <- c(.8, .7, .6, .7)
population <- kronecker(diag(3), loading)
factor_r <- matrix(.3, 3, 3) + diag(.7, 3)
sigma <- population %*% factor_r %*% t(population)
diag(sigma) <- 1
items <- paste0("i", 1:12)
structure <- do.call(sw_structure, split(items, rep(c("a", "b", "c"), each = 4)))
book <- data.frame(item = items, scale = "s", lowest = -1e6, highest = 1e6)

draw <- function(n, kind) {
  x <- matrix(rnorm(n * 12), n) %*% chol(sigma)
  if (kind == "heavy tails (t, 5 df)") x <- x / sqrt(rchisq(n, 5) / 5) * sqrt(3 / 5)
  if (kind == "10% missing") x[matrix(runif(n * 12) < .1, n)] <- NA
  cuts <- list(`2 categories` = .4, `3 categories` = c(-.3, 1), `5 categories` = c(-1.5, -.7, .3, 1.1))[[kind]]
  if (!is.null(cuts)) x[] <- findInterval(x, cuts)
  sw_survey(`colnames<-`(x, items) |> as.data.frame(), book)
}

one <- function(n, kind, estimator) {
  fit <- sw_confirm(draw(n, kind), structure, estimator = estimator)
  if (fit$about$status != "ok") return(c(NA, NA, NA))
  figures <- fit$parts$figures
  p <- if (is.null(figures$p_scaled)) figures$p.value else figures$p_scaled
  rows <- fit$tables$loadings
  covered <- abs(rows$standardised - rep(loading, 3)) < qnorm(.975) * rows$standardised_error
  r <- fit$tables$factor_correlations
  c(p < .05, mean(covered), mean(r$conf.low < .3 & r$conf.high > .3))
}

cases <- rbind(
  expand.grid(n = c(200, 500), estimator = c("ml", "robust", "gls", "uls"), kind = "normal", stringsAsFactors = FALSE),
  expand.grid(n = c(200, 500), estimator = c("ml", "robust"), kind = c("heavy tails (t, 5 df)", "10% missing"), stringsAsFactors = FALSE),
  expand.grid(n = c(200, 500), estimator = c("ordinal", "ordinal_uls"), kind = c("2 categories", "3 categories", "5 categories"),
    stringsAsFactors = FALSE)
)
set.seed(1)
cat(sprintf("| answers | estimator | n | rejected at .05 | loadings covered | correlations covered | not ok |\n|---|---|---|---|---|---|---|\n"))
for (i in seq_len(nrow(cases))) {
  found <- replicate(samples, with(cases[i, ], one(n, kind, estimator)))
  with(cases[i, ], cat(sprintf("| %s | %s | %d | %.3f | %.3f | %.3f | %d |\n", kind, estimator, n, mean(found[1, ], na.rm = TRUE),
    mean(found[2, ], na.rm = TRUE), mean(found[3, ], na.rm = TRUE), sum(is.na(found[1, ])))))
}
