# Plans on the command line.

cli_start <- function(options, files) {
  if (length(files) == 0) stop_usage(message_of("e_file_answers_needed_two"))
  sheet <- if (!is.null(options$sheet)) cli_sheet(options$sheet)
  written <- write_start(files, options$out, options$overwrite, options$trust,
    list(codebook = options$codebook, key = options$key, layout = options$layout, sheet = sheet))
  cat(utils::head(format(written$codebook), -1), worded("cli_start_written"), paste0("  ", written$paths),
    worded("cli_start_then", plan = in_shell(written$paths[2])), sep = "\n")
  exit_codes[["done"]]
}

# A path as it is typed: quoted where it has spaces or signs.
in_shell <- function(path) if (grepl("[^A-Za-z0-9_./~:-]", path)) shQuote(path) else path

cli_run <- function(options, files) {
  if (length(files) == 0) stop_usage(message_of("e_plan_file_needed"))
  done <- run_plan(files[1], options$overwrite, cli_progress(options), seed = if (options$seed_given) options$seed)
  reading_in(done$language, show_run(done))
  # What a run is for did not come of it.
  if (length(done$lacking) > 0) exit_codes[["input"]] else cli_exit(done$results$confirmation)
}

# What was done and written, in the plan's language.
show_run <- function(done) {
  kept <- sum(vapply(done$record, `[[`, TRUE, "kept"))
  left_out <- length(attr(done$results, "left_out"))
  done_words <- worded("cli_run_done", steps = length(done$record) - left_out, kept = if (kept > 0) message_of("cli_run_kept", n = kept),
    left_out = if (left_out > 0) message_of("cli_run_left_out", n = left_out))
  reports <- grep("report[.]", done$paths, value = TRUE)
  left_said <- attr(done$results, "left_said")
  lacking <- lapply(done$lacking, function(step) {
    message_of("cli_run_without", step = message_of("a_term", term = word_of(step, ".steps")), why = left_said[[step]])
  })
  show_lines(c(vapply(lacking, say, ""), done_words, if (length(reports) > 0) worded("cli_report_first", path = reports[1]),
    if (length(done$left) > 0) worded("cli_run_changed", files = done$left), "", paste0("  ", done$paths)))
}

cli_check <- function(options, files) {
  if (length(files) == 0) stop_usage(message_of("e_plan_file_needed"))
  plan <- check_plan(read_plan(files[1]), files[1])
  answers <- check_answers(plan, files[1])
  off <- names(Filter(isFALSE, plan))
  reading_in(plan$language, show_lines(c(worded("cli_plan_fine", data = data_message(plan), codebook = plan$codebook, left_out = if (length(off) > 0)
    message_of("cli_plan_left_out", steps = lapply(off, function(step) message_of("a_term", term = word_of(step, ".steps"))))),
    worded("cli_plan_answers", cases = answers$cases, items = answers$items), vapply(Filter(Negate(is.null), answers$notes), say, ""))))
  exit_codes[["done"]]
}
