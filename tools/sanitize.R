# Compiles with the address and undefined-behaviour sanitizers into a library of its own, and runs the tests
# and 300 damaged inputs with it. What they find is printed as it is found and makes this fail.
library_path <- tempfile("sanitized-")
dir.create(library_path)
flags <- tempfile("Makevars-")
writeLines(c(paste0(c("CXXFLAGS", "CXX14FLAGS", "CXX17FLAGS"), " = -O1 -g -fno-omit-frame-pointer -fsanitize=address,undefined -w"),
  "LDFLAGS = -fsanitize=address,undefined"), flags)
source <- tempfile("source-")
dir.create(source)
file.copy(setdiff(list.files("."), c("demo-output", "site")), source, recursive = TRUE)
unlink(list.files(file.path(source, "src"), "[.](o|so)$", full.names = TRUE))
of_compiler <- function(name) system2("g++", paste0("-print-file-name=", name), stdout = TRUE)
Sys.setenv(R_MAKEVARS_USER = flags, MAKEFLAGS = "-j2", R_LIBS = paste(c(library_path, .libPaths()), collapse = ":"))
if (system2("R", c("CMD", "INSTALL", "--no-test-load", "--no-docs", paste0("--library=", library_path), source)) != 0) quit(status = 1)
log <- tempfile("found-")
Sys.setenv(LD_PRELOAD = paste(of_compiler("libasan.so"), of_compiler("libubsan.so")), ASAN_OPTIONS = paste0("detect_leaks=0:log_path=", log),
  UBSAN_OPTIONS = paste0("print_stacktrace=1:log_path=", log))
tests <- system2("Rscript", "tools/test.R")
fuzz <- system2("Rscript", c("tools/fuzz.R", "300"))
Sys.setenv(LD_PRELOAD = "")
found <- list.files(dirname(log), paste0("^", basename(log)), full.names = TRUE)
for (file in found) writeLines(utils::head(readLines(file, warn = FALSE), 40))
cat(length(found), "reports of the sanitizers\n")
quit(status = if (length(found) > 0 || tests != 0 || fuzz != 0) 1 else 0)
