# Runs the steps of the path: all of them, or what a plan asks for, from what was kept where
# nothing changed.

# Results of every step, a named list; `survey` is the survey as scored, with its log.
whole_path <- function(survey, seed = 1, limits = sw_limits(), progress = function(step) NULL) {
  run_steps(list(answers = survey), list(), list(seed = seed, limits = limits), progress)$results
}

# have: results to begin with; options: by step, FALSE to leave one out; store: list(get, put) of
# kept results by key, with `key` that of the answers. list(results, record: step, seconds, kept).
run_steps <- function(have, options, common, progress = function(step) NULL, store = NULL) {
  keys <- list(answers = store$key)
  record <- list()
  steps <- path_steps()
  for (name in names(steps)) {
    step <- steps[[name]]
    if (isFALSE(options[[name]]) || lacks(step$needs, have, name)) next
    if (!is.null(step$words)) progress(step$words)
    own <- if (is.list(options[[name]])) options[[name]] else list()
    keys[[name]] <- rlang::hash(list(name, own, common, keys[step$needs], kept_version()))
    found <- if (!is.null(store)) store$get(name, keys[[name]])
    started <- proc.time()[["elapsed"]]
    result <- if (is.null(found)) step$run(have, own, common) else found$result
    if (is.null(found) && !is.null(store)) store$put(name, keys[[name]], result)
    record[[name]] <- list(step = name, seconds = round(proc.time()[["elapsed"]] - started, 2), kept = !is.null(found))
    if (!is.null(result)) have[[name]] <- result
  }
  list(results = have[setdiff(names(have), c("answers", "split", "structure"))], record = unname(record), keys = keys)
}

# Only these may be absent: without a split all cases do for both halves.
lacks <- function(needs, have, name) {
  optional <- c("split", "retention", if (name == "structure") "exploration", if (name == "scores") "confirmation")
  if (name == "exploration" && is.null(have$retention)) {
    return(TRUE)
  }
  !all(setdiff(needs, optional) %in% names(have))
}

# What was kept by another version is not used.
kept_version <- function() c(as.character(utils::packageVersion("scalewort")), as.character(getRversion()))
