# R CMD check --as-cran on a built package; fails on an error or a warning. Before it, one link that
# fails where two units mean different things by one name.
#
#   Rscript tools/check.R           all of it
#   Rscript tools/check.R quick     without that link, tests, examples and vignettes, which `make test` runs
quick <- identical(commandArgs(trailingOnly = TRUE), "quick")
one_meaning <- function() {
  odr <- tempfile("odr-")
  dir.create(odr)
  file.copy("src", odr, recursive = TRUE)
  unlink(list.files(file.path(odr, "src"), "[.](o|so)$", full.names = TRUE))
  flags <- file.path(odr, "Makevars")
  writeLines(c(paste0(c("CXXFLAGS", "CXX14FLAGS", "CXX17FLAGS"), " = -O1 -w -flto -Wodr -Werror=odr"),
    "SHLIB_CXXLDFLAGS = -shared -O1 -flto -Wodr -Werror=odr", "SHLIB_CXX14LDFLAGS = -shared -O1 -flto -Wodr -Werror=odr"), flags)
  linking <- Filter(nzchar, vapply(c("Rcpp", "RcppEigen", "dqrng", "sitmo", "BH"), function(p) system.file("include", package = p), ""))
  here <- setwd(file.path(odr, "src"))
  status <- system2("R", c("CMD", "SHLIB", "-o", "scalewort.so", "unit-exports.cpp"),
    env = c(paste0("R_MAKEVARS_USER=", flags), paste0("CLINK_CPPFLAGS='", paste0("-I", linking, collapse = " "), "'")))
  setwd(here)
  if (status != 0) stop("The units do not agree on what their names mean.")
}
if (!quick) one_meaning()

status <- system2("R", c("CMD", "build", "--no-manual", if (quick) "--no-build-vignettes", "."))
if (status != 0) quit(status = 1)
archive <- list.files(pattern = "^scalewort_.*\\.tar\\.gz$")[1]
# As CRAN checks it, but for what needs its servers.
plain <- tempfile("Makevars-")
writeLines(paste0(c("CXXFLAGS", "CXX14FLAGS", "CXX17FLAGS"), " = -O2"), plain)
Sys.setenv("_R_CHECK_FORCE_SUGGESTS_" = "false", "_R_CHECK_CRAN_INCOMING_REMOTE_" = "false", "_R_CHECK_SYSTEM_CLOCK_" = "false",
  R_MAKEVARS_USER = plain)
system2("R", c("CMD", "check", "--no-manual", if (quick) c("--no-tests", "--no-examples", "--ignore-vignettes") else "--as-cran", archive))
log <- readLines("scalewort.Rcheck/00check.log")
cat(utils::tail(log, 3), sep = "\n")
# A check that stopped half way has no status.
quit(status = if (any(grepl("(ERROR|WARNING)$", log)) || !any(startsWith(log, "Status:"))) 1 else 0)
