# A plan: a YAML file that says which data, which codebook, what is turned or set aside and why,
# which steps with which options, and where the results go.

#' Do everything a plan file says
#'
#' A plan is YAML: `data` and `codebook` (paths, relative to the plan), and if wanted `title`, `id`,
#' `group`, `wave`, `flip` and `set_aside` (each with a `reason`), `careless`, the steps `screening`,
#' `answering`, `dif`, `reliability`, `split`, `exploration`, `structure`, `confirmation`, `invariance`,
#' `validity`, `composites`, `scores` (options of their verbs; `false` leaves a step out),
#' `limits`, `seed`, `output` (a folder), `reports` and `write` (forms of the report and of the scored
#' data). With `wave` the first wave is analysed; scores and comparisons of waves use all.
#' `scalewort start` writes one with every key explained. It is checked against the JSON
#' Schema that comes with the package (`system.file("schema/plan.json", package = "scalewort")`)
#' before anything runs. Each step's result is kept in the output folder and used again when
#' nothing it depends on has changed; `manifest.json` says what was made from what. The same plan
#' gives the same tables.
#'
#' @param plan Path of the plan.
#' @param overwrite Replace files in the output folder?
#' @param check Only check the plan?
#' @return The results of the path, a named list, invisibly; with `check` the plan as read.
#' @section Errors: `scalewort_error_file` for a plan that is not there or not YAML;
#'   `scalewort_error_input` lists all faults of the plan, each with its line; else those of
#'   the verbs.
#' @examples
#' folder <- tempfile("plan-")
#' dir.create(folder)
#' file.copy(system.file("extdata", c("plotholders.csv", "plotholders-codebook.csv"),
#'   package = "scalewort"), folder)
#' plan <- file.path(folder, "plan.yml")
#' writeLines(c("data: plotholders.csv", "codebook: plotholders-codebook.csv", "id: id",
#'   "exploration: false", "composites: false", "validity: false"), plan)
#' results <- sw_run(plan)
#' list.files(file.path(folder, "results"))
#' @export
sw_run <- function(plan, overwrite = FALSE, check = FALSE) {
  check_flag(check, "check")
  if (check) {
    return(invisible(read_plan(plan)))
  }
  invisible(run_plan(plan, overwrite)$results)
}

run_plan <- function(path, overwrite = FALSE, progress = function(step) NULL) {
  plan <- read_plan(path)
  beside <- function(file) if (grepl("^(/|~|[A-Za-z]:)", file)) file else file.path(dirname(path), file)
  folder <- beside(if (is.null(plan$output)) "results" else plan$output)
  dir.create(folder, recursive = TRUE, showWarnings = FALSE)
  limits <- if (length(plan$limits) > 0) do.call(sw_limits, lapply(plan$limits, unlist)) else sw_limits()
  common <- list(seed = if (is.null(plan$seed)) 1 else plan$seed, limits = limits)
  progress("reading the answers")
  survey <- planned_survey(plan, beside)
  inputs <- stats::setNames(vapply(c(plan$data, plan$codebook), function(file) rlang::hash_file(beside(file)), ""), c(plan$data, plan$codebook))
  store <- result_store(file.path(folder, "kept"),
    rlang::hash(list(inputs, plan[c("id", "group", "wave", "waves", "missing_codes", "flip", "set_aside")])))
  done <- run_steps(list(answers = survey), step_options(plan, beside), common, progress, store)
  progress("writing tables, figures and the report")
  paths <- write_results(done$results, folder, plan, overwrite, path)
  manifest <- write_manifest(folder, path, inputs, common$seed, done, paths)
  list(results = done$results, paths = c(paths, manifest), record = done$record)
}

planned_survey <- function(plan, beside) {
  survey <- sw_read(beside(plan$data), beside(plan$codebook), id = plan$id, group = unlist(plan$group), wave = plan$wave, waves = unlist(plan$waves),
    missing_codes = unlist(plan$missing_codes))
  for (step in plan$flip) survey <- sw_flip(survey, unlist(step$items), reason = step$reason)
  for (step in plan$set_aside) survey <- sw_drop(survey, items = unlist(step$items), cases = unlist(step$cases), reason = step$reason)
  survey
}

# What the plan says of each step: FALSE, or a list of options.
step_options <- function(plan, beside) {
  out <- plan[intersect(names(path_steps()), names(plan))]
  out <- lapply(out, function(o) if (is.list(o)) lapply(o, plain_option) else o)
  out$survey <- Filter(Negate(is.null), list(repair = plan$repair_keying, careless = plan$careless))
  from <- plan$structure
  # Files are read here, so that what is kept depends on what they say.
  if (is.character(from) && !from %in% c("codebook", "exploration")) from <- sw_structure(beside(from))
  if (is.list(out$scores) && is.character(out$scores$norms)) out$scores$norms <- read_table(beside(out$scores$norms))$data
  out$structure <- Filter(Negate(is.null), list(from = from, cutoff = plan$cutoff))
  if (isFALSE(plan$exploration)) out[c("factorability", "retention", "stability")] <- FALSE
  if (isFALSE(plan$confirmation)) out[c("validity", "composites")] <- FALSE
  if (is.list(plan$invariance) && is.list(plan$invariance$release)) out$invariance$release <- lapply(plan$invariance$release, unlist)
  out
}

# A list of single values is a vector, but a list with names stays one.
plain_option <- function(value) if (is.list(value) && is.null(names(value))) unlist(value) else value

# Kept results in a folder, a file per step with the key it was made under.
result_store <- function(folder, key) {
  dir.create(folder, showWarnings = FALSE)
  place <- function(name) file.path(folder, paste0(name, ".rds"))
  list(
    key = key,
    get = function(name, key) {
      kept <- if (file.exists(place(name))) tryCatch(readRDS(place(name)), error = function(e) NULL)
      if (is.list(kept) && identical(kept$key, key)) kept
    },
    put = function(name, key, result) saveRDS(list(key = key, result = result), place(name))
  )
}

write_manifest <- function(folder, plan, inputs, seed, done, paths) {
  relative <- sub(paste0("^", gsub("([.\\\\+*?^$(){}|\\[])", "\\\\\\1", folder), "/"), "", paths)
  content <- list(
    made = format(Sys.time(), "%Y-%m-%dT%H:%M:%SZ", tz = "UTC"),
    versions = list(scalewort = as.character(utils::packageVersion("scalewort")), R = as.character(getRversion()), platform = R.version$platform),
    plan = list(file = basename(plan), hash = rlang::hash_file(plan)), inputs = data.frame(file = names(inputs), hash = unname(inputs)),
    seed = seed, steps = done$record,
    outputs = lapply(seq_along(paths), function(i) list(file = relative[i], hash = rlang::hash_file(paths[i])))
  )
  path <- file.path(folder, "manifest.json")
  write_safely(path, TRUE, function(draft) writeLines(jsonlite::toJSON(content, auto_unbox = TRUE, pretty = TRUE), draft))
}

# The plan, checked; all faults at once, each with its line.
read_plan <- function(path) {
  check_readable(path)
  lines <- readLines(path, warn = FALSE)
  plan <- tryCatch(
    yaml::yaml.load(paste(lines, collapse = "\n"), eval.expr = FALSE, handlers = list(seq = as.list)),
    error = function(e) stop_file(paste0("The plan is not valid YAML: ", path), faults = conditionMessage(e))
  )
  if (!is.list(plan) || is.null(names(plan))) stop_input("The plan has no keys; it needs `data` and `codebook` at least.")
  schema <- jsonlite::fromJSON(system.file("schema", "plan.json", package = "scalewort", mustWork = TRUE), simplifyVector = FALSE)
  faults <- schema_faults(plan, schema)
  words <- vapply(faults, function(f) {
    line <- yaml_line(lines, f$path)
    where <- f$path[!grepl("^[0-9]+$", f$path)]
    about <- if (length(where) > 0 && !startsWith(f$text, "unknown key")) paste0(paste(where, collapse = ": "), ": ")
    paste0(if (!is.na(line)) paste0("line ", line, ": "), about, f$text)
  }, "")
  if (length(words) > 0) stop_input(paste0("The plan cannot be followed: ", path), faults = words, hint = "Nothing has been run.")
  plan
}
