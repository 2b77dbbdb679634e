# Speed as ratios against base R measured side by side in the same run. Absolute
# times mean nothing on a shared machine; each ratio is the median of several
# interleaved rounds.
#
#   make bench

library(scalewort)
core <- function(name) getFromNamespace(name, "scalewort")
seconds <- function(code, times = 1) {
  start <- proc.time()[["elapsed"]]
  for (i in seq_len(times)) code()
  (proc.time()[["elapsed"]] - start) / times
}
ratio <- function(ours, theirs, rounds = 5, times = c(1, 1)) {
  values <- replicate(rounds, seconds(ours, times[1]) / seconds(theirs, times[2]))
  stats::median(values)
}
rows <- list()
report <- function(what, against, value, bound) {
  rows[[length(rows) + 1]] <<- data.frame(what, against, ratio = signif(value, 2), bound, met = value <= bound)
}

set.seed(1)
p <- 50
loadings <- kronecker(diag(5), matrix(.7, 10, 1))
factor_r <- matrix(.3, 5, 5) + diag(.7, 5)
answers <- function(n) {
  x <- matrix(rnorm(n * 5), n) %*% chol(factor_r) %*% t(loadings) + matrix(rnorm(n * p, 0, sqrt(.51)), n)
  colnames(x) <- paste0("i", seq_len(p))
  x
}
sample_1000 <- answers(1000)
r50 <- cor(sample_1000)
unit <- function() eigen(r50, symmetric = TRUE)

large <- answers(200000)
report("covariance of 200,000 x 50", "stats::cov()", ratio(function() core("core_complete_moments")(large), function() cov(large)), .5)
rm(large)

# A first codebook against reading the same file.
for (size in list(list(n = 1000, items = 300, bound = 3), list(n = 200000, items = 30, bound = 2))) {
  file <- tempfile(fileext = ".csv")
  made <- as.data.frame(matrix(sample(1:5, size$n * size$items, TRUE), size$n))
  names(made) <- paste0("q", (seq_len(size$items) - 1) %/% 10 + 1, "_", seq_len(size$items))
  data.table::fwrite(data.frame(made, id = seq_len(size$n), sex = sample(c("f", "m"), size$n, TRUE)), file)
  report(
    sprintf("a codebook drafted from a file of %d x %d", as.integer(size$n), as.integer(size$items)), "data.table::fread() of it",
    ratio(function() sw_draft_codebook(file), function() data.table::fread(file), 5, c(1, 3)), size$bound
  )
}

report(
  "1,000 parallel-analysis replicates, p = 50, n = 1,000", "1,000 eigen(only.values = TRUE)",
  ratio(
    function() core("core_random_eigenvalues")(1000L, 50L, 1000L, 1),
    function() for (i in 1:1000) eigen(r50, symmetric = TRUE, only.values = TRUE)
  ), 3
)

source("bench/confirm.R")
source("bench/factors.R")
source("bench/desk.R")
report(
  "ML extraction of five factors from 50 items", "one eigen() of 50 x 50",
  ratio(function() core("core_extract_ml")(r50, 5L), unit, times = c(20, 50)), 40
)

extracted_50 <- core("core_extract_ml")(r50, 5L)
report(
  "geomin rotation of the same from 30 starts", "one eigen() of 50 x 50",
  ratio(function() core("core_rotate")(extracted_50$loadings, "geomin"), unit, times = c(5, 50)), 150
)
report(
  "parallel analysis, 1,000 sets", "eigen(only.values = TRUE) a set",
  ratio(
    function() core("core_parallel")(core("core_random_eigenvalues")(1000L, 50L, 1000L, 1), .95),
    function() for (i in 1:1000) eigen(r50, symmetric = TRUE, only.values = TRUE)
  ), 1.5
)
five_point <- lapply(as.data.frame(sample_1000), function(v) findInterval(v, c(-1.2, -.4, .4, 1.2)) + 1L)
report(
  "polychoric correlations of 50 five-point items, n = 1,000", "one eigen() of 50 x 50",
  ratio(function() core("core_polychoric")(five_point), unit, times = c(3, 50)), 800
)

# Alpha and omega of five subscales of ten items in 2,000 resamples of 1,000 people,
# against the loop in bench/loop.R.
source("bench/loop.R")
five <- as.data.frame(apply(sample_1000, 2, function(v) findInterval(v, c(-1.2, -.4, .4, 1.2)) + 1L))
five_scales <- split(names(five), rep(1:5, each = 10))
by_hand <- function() for (items in five_scales) loop_alpha_omega(as.matrix(five[items]), replicates = 40)
ours <- function() for (items in five_scales) core("core_resample_reliability")(as.matrix(five[items]), 2000, 1)
loop_ratio <- stats::median(replicate(5, seconds(by_hand) * 50 / seconds(ours, 3)))
report("2,000 resamples of alpha and omega, five subscales of ten items, n = 1,000", "the plain R loop (at least 150 times as fast)",
  1 / loop_ratio, 1 / 150)

# All subscales of 1,000,000 x 50 answers.
million <- answers(1e6)
codes <- as.data.frame(lapply(as.data.frame(million), function(v) findInterval(v, c(-1.2, -.4, .4, 1.2)) + 1L))
storage <- data.matrix(codes)
storage.mode(storage) <- "double"
rm(million)
codes_survey <- sw_survey(codes, data.frame(item = names(codes), scale = rep(paste0("s", 1:5), each = 10), lowest = 1, highest = 5))
report("reliability of all subscales, 1,000,000 x 50", "stats::cov() of the same matrix",
  ratio(function() sw_reliability(codes_survey), function() cov(storage), rounds = 3), 1)
rm(codes, storage, codes_survey)
invisible(gc())

# A file of 1,000,000 x 50 answers, some missing: reading, checking against the
# codebook and screening against reading alone. Memory is the process's peak less
# what it held before, over the size of the answers as doubles.
file <- tempfile(fileext = ".csv")
set.seed(2)
big <- data.table::as.data.table(lapply(1:50, function(i) sample(c(1:5, NA), 1e6, TRUE, prob = c(rep(.196, 5), .02))))
data.table::setnames(big, paste0("i", 1:50))
data.table::fwrite(big, file)
rm(big)
invisible(gc())
book <- data.frame(item = paste0("i", 1:50), scale = rep(paste0("s", 1:5), each = 10), lowest = 1, highest = 5)
report(
  "reading, checking and screening 1,000,000 x 50 answers", "data.table::fread() of the file",
  ratio(function() sw_screen(sw_read(file, book)), function() data.table::fread(file), rounds = 3), 1.6
)
peak <- function(code) {
  script <- tempfile(fileext = ".R")
  writeLines(c(
    "status <- function(what) as.numeric(sub('.*:\\\\s*([0-9]+) kB', '\\\\1', grep(what, readLines('/proc/self/status'), value = TRUE)))",
    "library(scalewort); invisible(gc()); before <- status('^VmRSS')", code, "cat(status('^VmHWM') - before)"
  ), script)
  as.numeric(system2(file.path(R.home("bin"), "Rscript"), script, stdout = TRUE))
}
if (file.exists("/proc/self/status")) {
  code <- sprintf(
    paste("book <- data.frame(item = paste0('i', 1:50), scale = rep(paste0('s', 1:5), each = 10), lowest = 1, highest = 5);",
      "x <- sw_screen(sw_read('%s', book))"), file
  )
  report("peak memory of the same", "the answers as doubles (400 MB)", peak(code) * 1024 / (1e6 * 50 * 8), 2.5)
}
unlink(file)

rscript <- file.path(R.home("bin"), "Rscript")
script <- system.file("exec", "scalewort", package = "scalewort")
report("scalewort --version", "Rscript -e 1", ratio(
  function() system2(rscript, c(script, "--version"), stdout = FALSE), function() system2(rscript, c("-e", "1"), stdout = FALSE), rounds = 5
), 3)

report("scalewort reliability --demo plotholders", "Rscript -e 1", ratio(
  function() system2(rscript, c(script, "reliability", "--demo", "plotholders"), stdout = FALSE),
  function() system2(rscript, c("-e", "1"), stdout = FALSE), rounds = 3
), 4)

# The whole path of the demo with its figures and report, and a report of 60 items on six factors from results that are there.
folder <- tempfile("demo-")
report("scalewort demo", "Rscript -e 1", ratio(
  function() system2(rscript, c(script, "demo", "--out", folder, "--overwrite"), stdout = FALSE),
  function() system2(rscript, c("-e", "1"), stdout = FALSE), rounds = 1, times = c(1, 5)
), 35)
unlink(folder, recursive = TRUE)
sixty_results <- list(sw_screen(survey_60), sw_reliability(survey_60), sw_retention(survey_60, replicates = 100), sw_explore(survey_60, 6),
  sw_confirm(survey_60), sw_validity(survey_60), sw_score(survey_60))
page <- tempfile(fileext = ".html")
report("a report of 60 items", "Rscript -e 1", ratio(function() sw_report(sixty_results, page, overwrite = TRUE),
  function() system2(rscript, c("-e", "1"), stdout = FALSE), rounds = 1, times = c(1, 5)), 16)
unlink(page)

table <- do.call(rbind, rows)
print(table, row.names = FALSE, right = FALSE)
