# R CMD check --as-cran on a built package; fails on an error or a warning.
status <- system2("R", c("CMD", "build", "--no-manual", "."))
if (status != 0) quit(status = 1)
archive <- list.files(pattern = "^scalewort_.*\\.tar\\.gz$")[1]
# As CRAN checks it, but for what needs its servers.
Sys.setenv("_R_CHECK_FORCE_SUGGESTS_" = "false", "_R_CHECK_CRAN_INCOMING_REMOTE_" = "false", "_R_CHECK_SYSTEM_CLOCK_" = "false",
  R_MAKEVARS_USER = normalizePath("tools/Makevars"))
system2("R", c("CMD", "check", "--as-cran", "--no-manual", archive))
log <- readLines("scalewort.Rcheck/00check.log")
cat(utils::tail(log, 3), sep = "\n")
quit(status = if (any(grepl("(ERROR|WARNING)$", log))) 1 else 0)
