# The demonstration: demo files copied out, the whole path run on them, and
# every result written beside them. Returns the paths.

write_demo <- function(folder, seed, overwrite, progress) {
  names <- c("plotholders.csv", "plotholders-draft-codebook.csv")
  inputs <- file.path(folder, names)
  taken <- file.exists(inputs) & !overwrite
  if (any(taken)) stop_file(message_of("e_file_there_already_two", inputs = inputs[taken][1]), hint = message_of("e_use_overwrite_true"))
  file.copy(demo_file(names), inputs, overwrite = TRUE)
  survey <- sw_read(inputs[1], inputs[2], id = "id", group = "district")
  results <- whole_path(survey, seed, progress = progress)
  progress(worded("writing_everything"))
  c(inputs, write_results(results, folder, list(title = "What a plot does for its gardener"), overwrite))
}

# Tables, figures, scored data and report of a path, as the plan has it. Returns the paths, reports
# last.
write_results <- function(results, folder, plan, overwrite, plan_file = NULL) {
  forms <- unlist(plan$reports)
  if (is.null(forms)) forms <- "html"
  reports <- file.path(folder, paste0("report.", forms))
  for (path in reports) check_report_form(path)
  drawn <- tempfile("figures-")
  on.exit(unlink(drawn, recursive = TRUE))
  # A plan gives the same files wherever it is run: without a language English ones.
  if (!is.null(plan_file) && is.null(plan$language)) plan$language <- "en"
  settings <- c(Filter(Negate(is.null), plan[c("title", "author", "language", "theme", "digits", "checklist")]), list(plan = plan_file))
  document <- drawn_report(results, settings, drawn)
  c(
    write_result_tables(results, folder, overwrite), write_scored_data(results$scores, folder, unlist(plan$write), overwrite),
    write_result_figures(document, folder, overwrite), write_report(document, reports, overwrite)
  )
}

# Scores in further forms; CSV is always there.
write_scored_data <- function(scores, folder, forms, overwrite) {
  if (is.null(scores) || !is.null(scores$parts$asked)) {
    return(NULL)
  }
  vapply(setdiff(forms, "csv"), function(form) sw_write(scores, file.path(folder, paste0("scores.", form)), overwrite = overwrite), "",
    USE.NAMES = FALSE)
}

write_result_tables <- function(results, folder, overwrite) {
  wanted <- Filter(function(one) !is.null(one[[1]]), result_table_files(results))
  vapply(names(wanted), function(name) {
    sw_write(wanted[[name]][[1]], file.path(folder, name), table = wanted[[name]][[2]], overwrite = overwrite)
  }, "", USE.NAMES = FALSE)
}

# Files of tables: the result and which of its tables.
result_table_files <- function(results) {
  list(
    `screening.csv` = list(results$screening, "items"), `flags.csv` = list(results$screening, "flags"),
    `answering.csv` = list(results$answering, "cases"), `reliability.csv` = list(results$reliability, "scales"),
    `loadings.csv` = list(results$exploration, "pattern"), `fit.csv` = list(results$confirmation, "fit"),
    `confirmed-loadings.csv` = list(results$confirmation, "loadings"), `invariance.csv` = list(results$invariance, "steps"),
    `validity.csv` = list(results$validity, "factors"), `score-summary.csv` = list(results$scores, "scales"),
    `scores.csv` = list(if (is.null(results$scores$parts$asked)) results$scores, NULL)
  )
}

# The report's figures as files of their own, numbered as there.
write_result_figures <- function(document, folder, overwrite) {
  vapply(document_figures(document), function(b) {
    name <- paste0("figure-", sprintf("%02d", b$number), "-", sub("-[0-9]+$", "", b$name), ".png")
    write_safely(file.path(folder, name), overwrite, function(draft) file.copy(b$file, draft))
  }, "", USE.NAMES = FALSE)
}
