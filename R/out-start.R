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
    line_and_remark(text, worded(what))
  }
  remark <- function(code, ...) paste("#", worded(code, ...))
  marked <- function(text, code, ...) line_and_remark(paste("#", text), worded(code, ...))
  reason <- function(code) paste("#     reason:", worded(code))
  languages <- names(offered_languages())
  c(
    remark("plan_edit"), remark("plan_then_run"), "",
    line("title", report_words(reading_language())$title, "plan_title"), line("author", character(), "plan_author"),
    line("data", if (length(data) > 1) I(paste0("[", paste0(encodeString(data, quote = "\""), collapse = ", "), "]")) else data, "plan_data"),
    line("codebook", codebook, "plan_codebook"), line("id", guess$id, "plan_id"), line("group", guess$group, "plan_group"),
    line("wide", guess$wide, "plan_wide"), line("wave", character(), "plan_wave"), line("waves", character(), "plan_waves"),
    line("cluster", character(), "plan_cluster"), line("weight", character(), "plan_weight"), line("seed", 1, "plan_seed"),
    if (reading_language() != "en") line("language", I(reading_language()), "plan_language"), line("output", "results", "plan_output"), "",
    remark("plan_turn_or_aside"), "# flip:", "#   - items: [item3]", reason("plan_reason_flip"),
    if (length(guess$previews) > 0) c(remark("plan_previews"), "# set_aside:",
      paste0("#   - cases: [", paste(in_yaml(guess$previews), collapse = ", "), "]"), reason("plan_reason_previews")),
    "# set_aside:", "#   - items: [item6]", reason("plan_reason_aside"),
    marked("careless:", "plan_careless"), "#   flags: 3", paste("#   reason:", worded("plan_reason_careless")),
    marked("repair_keying: true", "plan_repair"), "",
    step_lines(), marked("limits:", "plan_limits"), "#   alpha: [0.70, 0.90]", marked("reports: [html]", "plan_and", others = c("docx", "md")),
    marked("write: [csv]", "plan_and", others = c("xlsx", "sav", "parquet", "tsv", "json", "xml (DDI)")),
    if (reading_language() == "en") marked("language: en", "plan_or", others = setdiff(languages, "en")),
    marked("checklist: true", "plan_checklist"), marked("theme: auto", "plan_or", others = c("light", "dark"))
  )
}

# A line of a plan with what there is to say of it in a column of its own.
line_and_remark <- function(text, remark) paste0(text, strrep(" ", max(1, 44 - nchar(text))), "# ", remark)

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
      line_and_remark(value, if (length(others) > 0) worded("plan_or", others = utils::head(others, 6)) else word_of(entry$help, ".options_help"))
    })
    c(paste0("# ", step, ":"), unlist(entries))
  }
  c(paste("#", worded("plan_steps")), paste("#", worded("plan_worked_out")), unlist(lapply(names(shown), of_verb)), "")
}

in_plan <- function(value) if (is.null(value)) "" else if (is.logical(value)) tolower(as.character(value)) else format(value, trim = TRUE)

# Values of a YAML list: texts are quoted.
in_yaml <- function(values) if (is.character(values)) encodeString(values, quote = "\"") else values
