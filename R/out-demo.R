# The demonstration: demo files copied out, the whole path run on them, and
# every result written beside them. Returns the paths.

write_demo <- function(folder, seed, overwrite, progress) {
  names <- c("plotholders.csv", "plotholders-draft-codebook.csv")
  inputs <- file.path(folder, names)
  taken <- file.exists(inputs) & !overwrite
  if (any(taken)) stop_file(paste0("The file is there already: ", inputs[taken][1]), hint = "Use --overwrite to replace it.")
  file.copy(demo_file(names), inputs, overwrite = TRUE)
  survey <- sw_read(inputs[1], inputs[2], id = "id", group = "district")
  results <- whole_path(survey, seed, progress = progress)
  progress("writing tables, figures and the report")
  c(inputs, write_results(results, folder, list(title = "What a plot does for its gardener"), overwrite))
}

# Tables, figures, scored data and report of a path, as the plan has it. Returns the paths, reports
# last.
write_results <- function(results, folder, plan, overwrite, plan_file = NULL) {
  forms <- unlist(plan$reports)
  if (is.null(forms)) forms <- "html"
  title <- if (is.null(plan$title)) "From answers to scores" else plan$title
  settings <- Filter(Negate(is.null), plan[c("author", "language", "theme", "digits")])
  c(
    write_result_tables(results, folder, overwrite), write_scored_data(results$scores, folder, unlist(plan$write), overwrite),
    write_result_figures(results, folder, overwrite),
    vapply(forms, function(form) {
      do.call(sw_report, c(list(results, file.path(folder, paste0("report.", form)), title = title, plan = plan_file, overwrite = overwrite),
        settings))
    }, "", USE.NAMES = FALSE)
  )
}

# Scores in further forms; CSV is always there.
write_scored_data <- function(scores, folder, forms, overwrite) {
  if (is.null(scores)) {
    return(NULL)
  }
  vapply(setdiff(forms, "csv"), function(form) sw_write(scores, file.path(folder, paste0("scores.", form)), overwrite = overwrite), "",
    USE.NAMES = FALSE)
}

write_result_tables <- function(results, folder, overwrite) {
  wanted <- list(
    `screening.csv` = list(results$screening, "items"), `flags.csv` = list(results$screening, "flags"),
    `answering.csv` = list(results$answering, "cases"), `reliability.csv` = list(results$reliability, "scales"),
    `loadings.csv` = list(results$exploration, "pattern"), `fit.csv` = list(results$confirmation, "fit"),
    `confirmed-loadings.csv` = list(results$confirmation, "loadings"), `invariance.csv` = list(results$invariance, "steps"),
    `validity.csv` = list(results$validity, "factors"), `score-summary.csv` = list(results$scores, "scales"), `scores.csv` = list(results$scores,
      NULL)
  )
  wanted <- Filter(function(one) !is.null(one[[1]]), wanted)
  vapply(names(wanted), function(name) {
    sw_write(wanted[[name]][[1]], file.path(folder, name), table = wanted[[name]][[2]], overwrite = overwrite)
  }, "", USE.NAMES = FALSE)
}

write_result_figures <- function(results, folder, overwrite) {
  drawn <- results[intersect(c("screening", "answering", "reliability", "retention", "exploration", "stability", "confirmation", "invariance"),
    names(results))]
  vapply(names(drawn), function(name) {
    path <- file.path(folder, paste0(name, ".png"))
    write_safely(path, overwrite, function(draft) save_figure(ggplot2::autoplot(drawn[[name]]), draft))
  }, "", USE.NAMES = FALSE)
}

# A figure as a PNG of 1280 x 800 points.
save_figure <- function(figure, path) {
  ggplot2::ggsave(path, figure, width = 1280 / 120, height = 800 / 120, dpi = 120, type = "cairo", bg = "white")
  path
}
