# Figures with a group of cases left out, one after another, for the acceleration of an interval.

# The group of each case, 200 at most, each of which is left out in turn for the acceleration.
core_groups_left_out <- function(n) rep_len(seq_len(min(n, 200)), n)

# The same where nothing can be resampled: an item alone, or too few cases.
core_unknown_bounds <- function(moments) {
  figures <- c("alpha", "omega", paste0("change_", seq_len(ncol(moments$covariance))))
  stats::setNames(rep(list(c(NA_real_, NA_real_)), length(figures)), figures)
}

# Alpha, omega and the change of alpha without each item, as columns.
core_with_changes <- function(values) {
  without <- values[, startsWith(colnames(values), "without_"), drop = FALSE]
  change <- as.data.frame(without - values[, "alpha"])
  names(change) <- paste0("change_", seq_len(ncol(change)))
  cbind(as.data.frame(values[, c("alpha", "omega"), drop = FALSE]), change)
}

# Which cases are left out in turn for the acceleration: all of them, or 2,000 spread
# evenly over many.
jackknife_rows <- function(n) unique(round(seq(1, n, length.out = min(n, 2000))))

core_each_left_out <- function(answers, one) {
  of <- core_groups_left_out(nrow(answers))
  do.call(rbind, lapply(seq_len(max(of)), function(k) one(answers[of != k, , drop = FALSE])))
}

# Figures of resamples, of people left out (for the acceleration), and of everybody.
core_resampled_figures <- function(answers, interval, replicates, seed) {
  list(
    values = core_with_changes(core_resample_reliability(answers, replicates, seed)),
    left_out = if (interval == "bca") core_with_changes(core_jackknife_reliability(answers, jackknife_rows(nrow(answers)))),
    estimate = if (interval == "bca") core_with_changes(core_reliability_figures(answers))
  )
}
