# Plans on the command line.

cli_start <- function(options, files) {
  if (length(files) == 0) stop_usage(message_of("e_file_answers_needed_two"))
  written <- write_start(files, options$out, options$overwrite, options$trust)
  cat(utils::head(format(written$codebook), -1), "Written, to be checked and edited:", paste0("  ", written$paths),
    paste("Then: scalewort check", in_shell(written$paths[2]), "and scalewort run", in_shell(written$paths[2])), sep = "\n")
  exit_codes[["done"]]
}

# A path as it is typed: quoted where it has spaces or signs.
in_shell <- function(path) if (grepl("[^A-Za-z0-9_./~:-]", path)) shQuote(path) else path

cli_run <- function(options, files) {
  if (length(files) == 0) stop_usage(message_of("e_plan_file_needed"))
  done <- run_plan(files[1], options$overwrite, cli_progress(options), seed = if (options$seed_given) options$seed)
  kept <- sum(vapply(done$record, `[[`, TRUE, "kept"))
  left_out <- length(attr(done$results, "left_out"))
  done_words <- paste0("Done: ", count_of(length(done$record) - left_out, "step"), if (kept > 0) paste0(", ", kept, " as kept from before"),
    if (left_out > 0) paste0("; ", left_out, " left out"), ".")
  reports <- grep("report[.]", done$paths, value = TRUE)
  show_lines(c(done_words, if (length(reports) > 0) paste("Open the report first:", reports[1]),
    if (length(done$left) > 0) paste0("Left from a former run, and changed since: ", and_list(done$left, 6), "."), "", paste0("  ", done$paths)))
  cli_exit(done$results$confirmation)
}

cli_check <- function(options, files) {
  if (length(files) == 0) stop_usage(message_of("e_plan_file_needed"))
  plan <- check_plan(read_plan(files[1]), files[1])
  off <- names(Filter(isFALSE, plan))
  cat(paste0("The plan can be followed: data ", data_said(plan), ", codebook ", plan$codebook,
    if (length(off) > 0) paste0("; left out: ", and_list(off,
    12)),
    "."), sep = "\n")
  exit_codes[["done"]]
}
