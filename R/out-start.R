# A first codebook and a plan with every key explained.

# Drafts a codebook and a plan beside a file of answers, or several: list(codebook, paths). beside: list(codebook, key, layout, sheet), what else
# tells of the file.
write_start <- function(path, folder = NULL, overwrite = FALSE, trust = FALSE, beside = list()) {
  check_paths(path)
  layout <- if (!is.null(beside$layout)) start_layout(beside$layout)
  if (is.null(beside$sheet)) beside$sheet <- sheet_of_data(path)
  how <- list(header = TRUE, trust = trust, layout = layout, sheet = beside$sheet)
  apart <- if (is.null(layout) && is.null(beside$codebook)) codebook_among(path, how) else list(path = path, codebook = beside$codebook)
  path <- apart$path
  table <- read_table(path, how)
  table <- told_table(table, path, apart$codebook, beside$key)
  codebook <- draft_table(table, 12, "auto", path[1])
  if (is.null(folder)) folder <- dirname(path[1])
  name <- sub("[.](csv|tsv|txt)$", "", tools::file_path_sans_ext(basename(path[1])))
  paths <- file.path(folder, paste0(name, c("-codebook.csv", "-plan.yml")))
  # A codebook of one's own is not written over.
  if (paths[1] %in% c(apart$codebook, beside$key)) paths[1] <- file.path(folder, paste0(name, "-codebook-draft.csv"))
  taken <- file.exists(paths) & !overwrite
  if (any(taken)) stop_file(message_of("e_file_there_already_four", paths = paths[taken][1]), hint = message_of("e_use_overwrite_true"))
  sw_write(codebook, paths[1], overwrite = overwrite)
  guess <- c(codebook$found$design, list(wide = codebook$found$wide, leave = rows_to_leave(told_apart(table$data), codebook$found), trust = trust,
    layout = layout, sheet = beside$sheet))
  near <- normalizePath(folder) == normalizePath(dirname(path))
  data <- ifelse(near, basename(path), normalizePath(path))
  lines <- plan_lines(data, basename(paths[1]), guess)
  write_safely(paths[2], overwrite, function(draft) writeLines(enc2utf8(lines), draft, useBytes = TRUE))
  list(codebook = codebook, paths = paths)
}

# A layout as it is typed, or the file that has it.
start_layout <- function(layout) {
  told <- if (file.exists(layout)) told_by_layout(layout) else parse_layout_text(layout)
  if (is.null(told)) stop_input(message_of("e_layout_written_id"))
  told
}

# A workbook's first sheet can be a cover: then the one with most filled cells. NULL for the first.
sheet_of_data <- function(path) {
  if (length(path) != 1 || !grepl("[.]xlsx?$", path, ignore.case = TRUE)) {
    return(NULL)
  }
  filled <- vapply(raw_sheets(path), function(cells) sum(!is.na(cells) & trimws(cells) != ""), 0)
  first <- raw_sheets(path)[[1]]
  cover <- length(filled) > 1 && (ncol(first) < 3 || sum(rowSums(!is.na(first)) >= 3) < 5)
  if (cover) which.max(filled)
}

# Of several files one may be the codebook of the others: list(path, codebook).
codebook_among <- function(path, how) {
  if (length(path) < 2) {
    return(list(path = path, codebook = NULL))
  }
  kinds <- tolower(tools::file_ext(path))
  for (i in which(kinds %in% c("csv", "tsv", "txt", "xlsx", "xls", "yml", "yaml"))) {
    others <- path[-i]
    columns <- tryCatch(unique(unlist(lapply(others, function(one) names(read_table(one, how)$data)))), error = function(e) NULL)
    told <- if (length(columns) > 0) tryCatch(told_by_codebook(path[i], columns), error = function(e) NULL)
    if (length(told) >= max(3, length(columns) / 3)) {
      return(list(path = others, codebook = path[i]))
    }
  }
  list(path = path, codebook = NULL)
}

# Rows that a draft leaves out, each kind with its reason: list(list(cases, reason: a code, why)). Cases by identifier where each has one.
rows_to_leave <- function(data, found) {
  id <- found$design$id
  named <- length(id) > 0 && !anyDuplicated(data[[id]]) && is.null(found$wide)
  as_cases <- function(rows) if (named) data[[id]][rows] else paste("row", rows)
  kinds <- list(previews = found$previews$row, refused = found$refused$row, doubled = if (is.null(found$wide)) found$design$doubled)
  Filter(Negate(is.null), lapply(names(kinds), function(kind) {
    rows <- kinds[[kind]]
    if (length(rows) > 0 && length(rows) <= .1 * nrow(data)) list(kind = kind, cases = as_cases(rows))
  }))
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
  guessed <- function(key, given, open) line(key, guess[[key]], if (length(guess[[key]]) > 0) given else open)
  languages <- names(offered_languages())
  waves <- if (length(guess$waves) > 0) I(paste0("[", paste(in_yaml(guess$waves), collapse = ", "), "]"))
  sheet <- if (is.numeric(guess$sheet)) I(guess$sheet) else guess$sheet
  c(
    remark("plan_edit"), remark("plan_then_run"), "",
    line("title", report_words(reading_language())$title, "plan_title"), line("author", character(), "plan_author"),
    line("data", if (length(data) > 1) I(paste0("[", paste0(encodeString(data, quote = "\""), collapse = ", "), "]")) else data, "plan_data"),
    line("codebook", codebook, "plan_codebook"), line("id", guess$id, "plan_id"), line("group", guess$group, "plan_group"),
    line("wide", guess$wide, "plan_wide"), guessed("wave", "plan_wave_guessed", "plan_wave"), line("waves", waves, "plan_waves"),
    guessed("cluster", "plan_cluster_guessed", "plan_cluster"), guessed("weight", "plan_weight_guessed", "plan_weight"),
    if (isTRUE(guess$trust)) "trust: true",
    if (!is.null(guess$layout)) c("layout:", paste0("  ", encodeString(names(guess$layout), quote = "\""), ": ", guess$layout)),
    if (!is.null(sheet)) line("sheet", sheet, "plan_sheet"), line("seed", 1, "plan_seed"),
    if (reading_language() != "en") line("language", I(reading_language()), "plan_language"), line("output", "results", "plan_output"), "",
    remark("plan_turn_or_aside"), "# flip:", "#   - items: [item3]", reason("plan_reason_flip"),
    if (length(guess$leave) == 0) "# set_aside:" else c(remark("plan_leave"), "set_aside:", unlist(lapply(guess$leave, left_lines))),
    "#   - items: [item6]", reason("plan_reason_aside"),
    marked("careless:", "plan_careless"), "#   flags: 3", paste("#   reason:", worded("plan_reason_careless")),
    marked("repair_keying: true", "plan_repair"), "",
    step_lines(), marked("limits:", "plan_limits"), "#   alpha: [0.70, 0.90]", marked("reports: [html]", "plan_and", others = c("docx", "md")),
    marked("write: [csv]", "plan_and", others = c("xlsx", "sav", "parquet", "tsv", "json", "xml (DDI)")),
    if (reading_language() == "en") marked("language: en", "plan_or", others = setdiff(languages, "en")),
    marked("checklist: true", "plan_checklist"), marked("theme: auto", "plan_or", others = c("light", "dark"))
  )
}

left_lines <- function(leave) {
  c(paste0("  - cases: [", paste(in_yaml(leave$cases), collapse = ", "), "]"), paste("    reason:", worded(paste0("plan_reason_", leave$kind))))
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
