# A plan: a YAML file that says which data, which codebook, what is turned or set
# aside and why, and where the results go.

plan_keys <- c("title", "data", "codebook", "id", "group", "wave", "missing_codes", "flip", "set_aside", "seed", "output")

#' Do everything a plan file says
#'
#' A plan is YAML with the keys `data` and `codebook` (paths, relative to the plan),
#' and if wanted `title`, `id`, `group`, `wave`, `missing_codes`, `flip` and
#' `set_aside` (lists of `items` or `cases` with a `reason` each), `seed` and
#' `output` (a folder). `scalewort start` writes one. The same plan gives the same
#' tables.
#'
#' @param plan Path of the plan.
#' @param overwrite Replace files in the output folder?
#' @return The results of the whole path, a named list, invisibly.
#' @section Errors: `scalewort_error_file` for a plan that is not there or not
#'   YAML; `scalewort_error_input` lists all unknown and missing keys; else those of
#'   the verbs.
#' @examples
#' if (requireNamespace("rmarkdown", quietly = TRUE) && rmarkdown::pandoc_available()) {
#'   folder <- tempfile("plan-")
#'   dir.create(folder)
#'   file.copy(system.file("extdata", c("plotholders.csv", "plotholders-codebook.csv"),
#'     package = "scalewort"), folder)
#'   plan <- file.path(folder, "plan.yml")
#'   writeLines(c("data: plotholders.csv", "codebook: plotholders-codebook.csv", "id: id"), plan)
#'   results <- sw_run(plan)
#'   list.files(folder)
#' }
#' @export
sw_run <- function(plan, overwrite = FALSE) invisible(run_plan(plan, overwrite)$results)

run_plan <- function(path, overwrite = FALSE, progress = function(step) NULL) {
  plan <- read_plan(path)
  beside <- function(file) if (grepl("^(/|~|[A-Za-z]:)", file)) file else file.path(dirname(path), file)
  survey <- sw_read(beside(plan$data), beside(plan$codebook), id = plan$id, group = plan$group, wave = plan$wave,
    missing_codes = unlist(plan$missing_codes))
  for (step in plan$flip) survey <- sw_flip(survey, unlist(step$items), reason = step$reason)
  for (step in plan$set_aside) survey <- sw_drop(survey, items = unlist(step$items), cases = unlist(step$cases), reason = step$reason)
  seed <- if (is.null(plan$seed)) 1 else check_seed(plan$seed)
  results <- whole_path(survey, seed, progress = progress)
  folder <- beside(if (is.null(plan$output)) "results" else plan$output)
  dir.create(folder, recursive = TRUE, showWarnings = FALSE)
  progress("writing tables, figures and the report")
  title <- if (is.null(plan$title)) "From answers to scores" else plan$title
  list(results = results, paths = write_results(results, folder, title, overwrite))
}

read_plan <- function(path) {
  check_readable(path)
  plan <- tryCatch(
    yaml::yaml.load_file(path, eval.expr = FALSE),
    error = function(e) stop_file(paste0("The plan is not valid YAML: ", path), faults = conditionMessage(e))
  )
  if (!is.list(plan)) stop_input("The plan has no keys; it needs `data` and `codebook` at least.")
  unknown <- setdiff(names(plan), plan_keys)
  absent <- setdiff(c("data", "codebook"), names(plan))
  steps <- c(plan$flip, plan$set_aside)
  bare <- !all(vapply(steps, function(step) is.list(step) && is.character(step$reason), TRUE))
  faults <- c(
    paste0("unknown key ", quoted(unknown), vapply(unknown, did_you_mean, "", known = plan_keys), recycle0 = TRUE),
    paste0("key ", quoted(absent), " is missing", recycle0 = TRUE),
    if (bare) "each entry of `flip` and `set_aside` needs a `reason`"
  )
  if (length(faults) > 0) stop_input(paste0("The plan cannot be followed: ", path), faults = faults)
  plan
}

# Drafts a codebook and a plan beside a file of answers: list(codebook, paths).
write_start <- function(path, folder = NULL, overwrite = FALSE) {
  codebook <- sw_draft_codebook(path)
  if (is.null(folder)) folder <- dirname(path)
  name <- tools::file_path_sans_ext(basename(path))
  paths <- file.path(folder, paste0(name, c("-codebook.csv", "-plan.yml")))
  taken <- file.exists(paths) & !overwrite
  if (any(taken)) stop_file(paste0("The file is there already: ", paths[taken][1]), hint = "Use --overwrite to replace it.")
  sw_write(codebook, paths[1], overwrite = overwrite)
  guess <- guess_identifier(path, codebook)
  data <- if (normalizePath(folder) == normalizePath(dirname(path))) basename(path) else normalizePath(path)
  write_safely(paths[2], overwrite, function(draft) writeLines(plan_lines(data, basename(paths[1]), guess), draft))
  list(codebook = codebook, paths = paths)
}

# A column without repeats is the identifier; a text column of few values a group.
guess_identifier <- function(path, codebook) {
  data <- read_table(path)$data
  others <- codebook$items$item[codebook$items$role == "aside" & is.na(codebook$items$options)]
  unique_column <- Filter(function(name) !anyDuplicated(data[[name]]) && !anyNA(data[[name]]), others)
  few <- Filter(function(name) is.character(data[[name]]) && length(unique(data[[name]])) %in% 2:12, others)
  list(id = utils::head(unique_column, 1), group = utils::head(few, 1))
}

plan_lines <- function(data, codebook, guess) {
  line <- function(key, value, what) {
    value <- if (is.character(value)) encodeString(value, quote = "\"") else value
    text <- if (length(value) == 0) paste0("# ", key, ":") else paste0(key, ": ", value)
    paste0(text, strrep(" ", max(1, 44 - nchar(text))), "# ", what)
  }
  c(
    "# What scalewort is to do. Edit, then: scalewort run this-file",
    line("title", "From answers to scores", "title of the report"), line("data", data, "the file of answers"),
    line("codebook", codebook, "check its guesses first"), line("id", guess$id, "column with the case's identifier (a guess)"),
    line("group", guess$group, "column with groups to compare (a guess)"), line("seed", 1, "the same seed gives the same halves"),
    line("output", "results", "folder for tables, figures, report"), "",
    "# Items to turn and items or cases to set aside, each with its reason:", "# flip:", "#   - items: [item3]",
    "#     reason: worded against the others", "# set_aside:", "#   - items: [item6]", "#     reason: asks about something else"
  )
}
