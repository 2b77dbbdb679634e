# A first codebook and a plan with every key explained.

# Drafts a codebook and a plan beside a file of answers, or several: list(codebook, paths).
write_start <- function(path, folder = NULL, overwrite = FALSE, trust = FALSE) {
  table <- read_table(check_paths(path), list(header = TRUE, trust = trust))
  codebook <- draft_table(table, 12, "auto", path[1])
  if (is.null(folder)) folder <- dirname(path[1])
  name <- sub("[.](csv|tsv|txt)$", "", tools::file_path_sans_ext(basename(path[1])))
  paths <- file.path(folder, paste0(name, c("-codebook.csv", "-plan.yml")))
  taken <- file.exists(paths) & !overwrite
  if (any(taken)) stop_file(message_of("e_file_there_already_four", paths = paths[taken][1]), hint = message_of("e_use_overwrite_true"))
  sw_write(codebook, paths[1], overwrite = overwrite)
  guess <- guess_columns(told_apart(table$data), codebook)
  beside <- normalizePath(folder) == normalizePath(dirname(path))
  data <- ifelse(beside, basename(path), normalizePath(path))
  lines <- plan_lines(data, basename(paths[1]), guess)
  write_safely(paths[2], overwrite, function(draft) writeLines(enc2utf8(lines), draft, useBytes = TRUE))
  list(codebook = codebook, paths = paths)
}

# A column without repeats is the identifier (one that is called so first); a text column of few values a group, most of all one whose
# groups have 20 people each. Columns of waves, and those of a platform, are neither.
guess_columns <- function(data, codebook) {
  found <- codebook$found
  waves <- if (!is.null(found$wide)) wide_columns(names(data), found$wide)$column
  others <- setdiff(intersect(codebook$items$item[codebook$items$role == "aside" & is.na(codebook$items$options)], names(data)), waves)
  unique_column <- Filter(function(name) !anyDuplicated(data[[name]]) && !anyNA(data[[name]]), others)
  named <- grepl("(^|[^a-z])(id|code|nr|no|key|token|case|person|respondent|participant)($|[^a-z])", tolower(gsub("([a-z])([A-Z])", "\\1 \\2",
    unique_column)))
  id <- utils::head(c(unique_column[named], unique_column), 1)
  ranged <- codebook$items$item[!is.na(codebook$items$lowest) | !is.na(codebook$items$labels)]
  own <- setdiff(others[!vapply(others, is_metadata, TRUE, wording = "")], ranged)
  groups <- lapply(stats::setNames(own, own), function(name) if (is.character(data[[name]])) one_spelling(data[[name]]))
  few <- names(Filter(function(x) !is.null(x) && length(unique(x[!is.na(x)])) %in% 2:12, groups))
  large <- Filter(function(name) min(table(groups[[name]])) >= 20, few)
  rows <- found$previews$row
  list(id = id, group = utils::head(c(large, few), 1), wide = found$wide, previews = if (length(rows) > 0 && length(id) > 0) data[[id]][rows] else
    rows)
}

plan_lines <- function(data, codebook, guess) {
  line <- function(key, value, what) {
    value <- if (is.character(value) && !inherits(value, "AsIs")) encodeString(value, quote = "\"") else value
    text <- if (length(value) == 0) paste0("# ", key, ":") else paste0(key, ": ", value)
    paste0(text, strrep(" ", max(1, 44 - nchar(text))), "# ", what)
  }
  c(
    "# What scalewort is to do. Edit, check with: scalewort check this-file", "# then: scalewort run this-file", "",
    line("title", "From answers to scores", "title of the report"), line("author", character(), "its author"),
    line("data", if (length(data) > 1) I(paste0("[", paste0(encodeString(data, quote = "\""), collapse = ", "), "]")) else data,
      "the file of answers"), line("codebook", codebook, "check its guesses first"),
    line("id", guess$id, "column with the case's identifier (a guess)"), line("group", guess$group, "column with groups to compare (a guess)"),
    line("wide", guess$wide, "how columns of waves side by side are called (a guess)"),
    line("wave", character(), "column with waves"),
    line("waves", character(), "their order, as [pre, post]"),
    line("cluster", character(), "column with the school, firm or household"), line("weight", character(), "column with sampling weights"),
      line("seed", 1, "the same seed gives the same halves"),
    line("output", "results", "folder for tables, figures, report"), "",
    "# Items to turn and items or cases to set aside, each with its reason:",
    "# flip:", "#   - items: [item3]", "#     reason: worded against the others",
    if (length(guess$previews) > 0) c(
      "# Tests or previews, it seems: take the marks off to set them aside.",
      "# set_aside:", paste0("#   - cases: [", paste(in_yaml(guess$previews), collapse = ", "), "]"),
        "#     reason: made while the questionnaire was tested"),
    "# set_aside:", "#   - items: [item6]", "#     reason: asks about something else",
    "# careless:                                 # cases with so many flags of careless answering", "#   flags: 3",
      "#   reason: answered without reading",
    "# repair_keying: true                       # turn items that look unreversed, on record", "",
    step_lines(),
    "# limits:                                   # bounds that judge", "#   alpha: [0.70, 0.90]",
    "# reports: [html]                           # and docx, md",
      "# write: [csv]                              # and xlsx, sav, parquet, tsv, json, xml (DDI)",
    "# language: en                              # or de", "# checklist: true                           # append reporting standards",
      "# theme: auto                               # or light, dark"
  )
}

# The steps with the options that are changed first, each as it is when nothing is said, from the table of options.
step_lines <- function() {
  shown <- list(dif = "adjust", reliability = "interval", split = c("share", "method"), retention = c("replicates", "percentile"),
    explore = c("extraction", "rotation", "correlation"), confirm = c("estimator", "missing"), validity = "replicates",
    score = c("method", "at_least"))
  of_verb <- function(verb) {
    step <- options_table()$verbs[[verb]]$step
    entries <- lapply(shown[[verb]], function(name) {
      entry <- options_table()$verbs[[verb]]$options[[name]]
      value <- paste0("#   ", name, ": ", paste(in_plan(entry$default), collapse = ", "))
      others <- setdiff(names(entry$values), as.character(entry$default))
      paste0(value, strrep(" ", max(1, 44 - nchar(value))), "# ", if (length(others) > 0) paste("or", paste(utils::head(others, 6),
        collapse = ", ")) else
        entry$help)
    })
    c(paste0("# ", step, ":"), unlist(entries))
  }
  c("# Steps: what stands here is what happens anyway; take a mark off to change it. A step that is false, as in dif: false, is left out.",
    "# What is not given is worked out: exploration: factors, structure, invariance: by, release, scores: form.",
    unlist(lapply(names(shown), of_verb)), "")
}

in_plan <- function(value) if (is.null(value)) "" else if (is.logical(value)) tolower(as.character(value)) else format(value, trim = TRUE)

# Values of a YAML list: texts are quoted.
in_yaml <- function(values) if (is.character(values)) encodeString(values, quote = "\"") else values
