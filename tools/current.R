# Fails where a file that `make docs` writes is not what it would write now: help, NAMESPACE, glossary, manual page, schema, glue to C++.
made <- c("NAMESPACE", "man", "docs/figures.md", "inst/manual", "inst/schema", "R/RcppExports.R", "src/RcppExports.cpp")
copy <- tempfile("current-")
dir.create(copy)
tracked <- list.files(".", recursive = TRUE, all.files = TRUE)
tracked <- grep("^[.]git/|[.](o|so)$|^(demo-output|site)/|[.]Rcheck/", tracked, value = TRUE, invert = TRUE)
for (folder in unique(dirname(tracked))) dir.create(file.path(copy, folder), recursive = TRUE, showWarnings = FALSE)
invisible(file.copy(tracked, file.path(copy, tracked)))
script <- normalizePath("tools/document.R")
here <- setwd(copy)
status <- system2(file.path(R.home("bin"), "Rscript"), script, stdout = FALSE, stderr = file.path(copy, "said.txt"))
setwd(here)
if (status != 0) stop(paste(readLines(file.path(copy, "said.txt")), collapse = "\n"))

files_in <- function(folder) {
  unlist(lapply(made, function(path) {
    at <- file.path(folder, path)
    if (dir.exists(at)) file.path(path, list.files(at)) else path
  }))
}
hashes <- function(folder, files) unname(tools::md5sum(file.path(folder, files)))
files <- union(files_in("."), files_in(copy))
stale <- files[!mapply(identical, hashes(".", files), hashes(copy, files))]
if (length(stale) > 0) cat("Not current; `make docs` writes them anew:", paste0("  ", stale), sep = "\n")
cat(length(files) - length(stale), "of", length(files), "written files are current\n")
quit(status = if (length(stale) > 0) 1 else 0)
