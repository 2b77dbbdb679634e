# Runs every test against the installed package, two files at a time, and closes with the counts.
folder <- normalizePath("tests/testthat")
files <- list.files(folder, "^test-.*\\.R$", full.names = TRUE)
# The long ones first, so that no worker is left alone with one at the end.
long <- c("desk-browser", "vignettes", "desk-jobs", "cli-main", "out-plan", "database-same", "desk-state", "cli-options", "out-report", "exports",
  "out-path", "core-ordinal", "out-report-whole", "out-plan-data", "database-design", "examples", "database", "database-workers",
  "verb-invariance-ordinal", "verb-screen", "broken-files", "figures")
long <- paste0("test-", long, ".R")
files <- c(files[match(long, basename(files), nomatch = 0)], files[!basename(files) %in% long])

one_file <- function(file) {
  found <- testthat::test_file(file, package = "scalewort", load_package = "installed", reporter = "silent", stop_on_failure = FALSE,
    stop_on_warning = FALSE)
  said <- unlist(lapply(found, function(test) {
    bad <- Filter(function(result) inherits(result, c("expectation_failure", "expectation_error", "expectation_warning")), test$results)
    vapply(bad, function(result) paste0("-- ", basename(file), ": ", test$test, "\n", paste(format(result), collapse = "\n")), "")
  }))
  table <- as.data.frame(found)
  list(table = table[c("file", "test", "failed", "skipped", "error", "real")], said = said)
}

workers <- parallel::makePSOCKcluster(2)
done <- parallel::clusterApplyLB(workers, files, one_file)
parallel::stopCluster(workers)
for (text in unlist(lapply(done, `[[`, "said"))) cat(text, "\n\n")
results <- do.call(rbind, lapply(done, `[[`, "table"))
slow <- utils::head(results[order(-results$real), ], 5)
cat("The slowest:", paste0("  ", round(slow$real), " s  ", slow$file, ": ", slow$test), sep = "\n")
failed <- results$failed > 0 | results$error
skipped <- results$skipped & !failed
cat(sprintf("%d passed, %d failed, %d skipped\n", sum(!failed & !skipped), sum(failed), sum(skipped)))
# Where everything is there that a test may need, none may be skipped.
unexpected <- skipped & identical(Sys.getenv("SCALEWORT_CHECKS"), "required")
for (i in which(unexpected)) cat("-- skipped: ", results$file[i], ": ", results$test[i], "\n", sep = "")
quit(status = if (any(failed) || any(unexpected) || nrow(results) == 0 || length(done) < length(files)) 1 else 0)
