# Runs every test against the installed package and closes with the counts.
results <- as.data.frame(testthat::test_dir(
  "tests/testthat",
  package = "scalewort", load_package = "installed", reporter = "check",
  stop_on_failure = FALSE, stop_on_warning = FALSE
))
failed <- results$failed > 0 | results$error
skipped <- results$skipped & !failed
cat(sprintf("%d passed, %d failed, %d skipped\n", sum(!failed & !skipped), sum(failed), sum(skipped)))
quit(status = if (any(failed) || nrow(results) == 0) 1 else 0)
