# Installs the package into the first library that can be written to, unless
# the installed one was made from the very same files.
source_files <- c("DESCRIPTION", "NAMESPACE", list.files(c("R", "src", "inst", "exec", "man", "vignettes"), recursive = TRUE, full.names = TRUE))
source_files <- source_files[!grepl("\\.(o|so|dll)$", source_files)]
stamp <- unname(tools::md5sum(source_files))
stamp <- paste(c(R.version.string, source_files, stamp), collapse = "\n")
stamp_file <- function() system.file("source-stamp", package = "scalewort")
if (nzchar(stamp_file()) && identical(readChar(stamp_file(), 1e6), stamp)) {
  message("Install: the installed package is current.")
  quit(status = 0)
}
open <- .libPaths()[file.access(.libPaths(), 2) == 0]
message("Install: compiling and installing (about two minutes the first time) ...")
log <- tempfile()
# Debug symbols would double the time and make a hundred megabytes; whoever has a Makevars keeps it.
own <- nzchar(Sys.getenv("R_MAKEVARS_USER")) || file.exists("~/.R/Makevars")
if (!own) Sys.setenv(R_MAKEVARS_USER = normalizePath("tools/Makevars"))
status <- system2("R", c("CMD", "INSTALL", "--no-test-load", paste0("--library=", open[1]), "."), stdout = log, stderr = log)
if (status != 0) {
  writeLines(readLines(log))
  quit(status = status)
}
cat(stamp, file = file.path(find.package("scalewort", lib.loc = open[1]), "source-stamp"))
message("Install: done.")
