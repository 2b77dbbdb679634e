# Columns that hold waves side by side.

# How columns of waves are called where there are some; NULL where there are not: three items or more with two waves.
find_wide <- function(names) {
  word <- c("t", "T", "w", "W", "wave", "Wave", "time", "Time", "welle", "Welle", "zp", "ZP", "mzp", "MZP")
  words <- "pre|post|fu|fup|followup|baseline|follow|Pre|Post|PRE|POST|FU|t[0-9]|T[0-9]"
  marks <- c("_", ".", "-")
  closing <- c(" (" = ")", " [" = "]", " " = "")
  candidates <- rbind(
    expand.grid(pattern = c(outer(outer(marks, word, paste0), "{wave}", function(a, b) paste0("{item}", a, b))), waves = "[0-9]{1,2}", item = ".+"),
    expand.grid(pattern = c(outer(paste0(word, "{wave}"), marks, function(a, b) paste0(a, b, "{item}"))), waves = "[0-9]{1,2}", item = ".+"),
    expand.grid(pattern = c("{item}T{wave}", "{item}W{wave}"), waves = "[0-9]", item = ".*[a-z0-9]"),
    expand.grid(pattern = c(outer(c(" (", " [", " "), c("wave ", "Wave ", "time ", "Time ", "Welle ", "T", "t", "W", "w", "vague ", "ola ", "onda "),
      function(a, b) paste0("{item}", a, b, "{wave}", closing[a]))), waves = "[0-9]{1,2}", item = ".+"),
    expand.grid(pattern = c("{item}_{wave}", "{item}.{wave}", "{item}_{wave}", "{wave}_{item}"), waves = "(19|20)[0-9]{2}", item = ".+"),
    expand.grid(pattern = paste0("{item}", marks, "{wave}"), waves = words, item = ".+"),
    expand.grid(pattern = paste0("{wave}", marks, "{item}"), waves = words, item = ".+"), stringsAsFactors = FALSE
  )
  candidates[] <- lapply(candidates, as.character)
  for (i in seq_len(nrow(candidates))) {
    columns <- wide_columns(names, candidates$pattern[i], candidates$waves[i], candidates$item[i])
    repeated <- table(columns$item) > 1
    # Numbers that run on over all items are no waves: a wave has several items.
    if (sum(repeated) >= 3 && mean(repeated) >= .6 && nrow(columns) >= 2 * length(unique(columns$wave))) return(candidates$pattern[i])
  }
  NULL
}

# A table with waves side by side as one with waves below each other: list(data, foreign, said, unmatched). Whoever answered nothing in a
# wave has no row in it.
stacked_table <- function(table, pattern, id = NULL) {
  pattern <- check_wide(pattern)
  data <- table$data
  columns <- wide_columns(names(data), pattern)
  waves <- ordered_waves(columns$wave)
  if (length(waves) < 2) {
    stop_input(message_of("e_called", columns_said = if (nrow(columns) == 0) message_of("e_no_column") else message_of("e_columns_only_one"),
      pattern = pattern), hint = message_of("e_columns", data = names(data)))
  }
  if (!is.null(id)) check_names_known(id, names(data), "id", "column")
  items <- unique(columns$item)
  beside <- setdiff(names(data), columns$column)
  person <- if (is.null(id)) seq_len(nrow(data)) else as.character(data[[id]])
  taken <- c(beside, items)
  wave_name <- utils::tail(make.unique(c(taken, "wave"), sep = "_"), 1)
  parts <- lapply(waves, function(wave) {
    own <- columns[columns$wave == wave, ]
    block <- data[own$column]
    names(block) <- own$item
    there <- rowSums(!is.na(block) & vapply(block, function(x) trimws(as.character(x)) != "", logical(nrow(data)))) > 0
    list(block = block, there = which(there), answered = there)
  })
  rows <- unlist(lapply(parts, `[[`, "there"))
  at <- rep(seq_along(waves), lengths(lapply(parts, `[[`, "there")))
  below <- order(rows, at)
  stacked <- bound_columns(lapply(parts, function(part) part$block[part$there, , drop = FALSE]), items)
  out <- c(as.list(data[beside])[beside] |> lapply(function(x) x[rows[below]]), list(waves[at[below]]), lapply(stacked, function(x) x[below]))
  names(out)[length(beside) + 1] <- wave_name
  answered <- do.call(cbind, lapply(parts, `[[`, "answered"))
  lacking <- which(rowSums(!answered) > 0)
  absent <- vapply(lacking, function(i) paste(waves[!answered[i, ]], collapse = " "), "")
  unmatched <- plain_table(person = as.character(person[lacking]), absent = absent)
  counts <- messages_of("name_aside", name = waves, aside = lengths(lapply(parts, `[[`, "there")))
  first <- columns$column[match(items, columns$item)]
  foreign <- c(table$foreign[intersect(beside, names(table$foreign))], stats::setNames(table$foreign[first], items))
  list(data = list2DF(out), foreign = foreign[!vapply(foreign, is.null, TRUE)], unmatched = unmatched, wave = wave_name, said = c(table$said,
    list(message_of("log_waves_stacked", pattern = pattern, waves = counts, matched = nrow(data) - nrow(unmatched)))))
}

# The columns that fit a pattern, of waves that at least half as many have as of the fullest: data.frame(column, item, wave).
wide_columns <- function(names, pattern, waves = "[A-Za-z0-9]+", item = ".+") {
  fixed <- function(x) gsub("([][{}()+*^$|\\?.])", "\\\\\\1", x)
  order <- regmatches(pattern, gregexpr("[{](item|wave)[}]", pattern))[[1]]
  parts <- strsplit(pattern, "[{](item|wave)[}]")[[1]]
  parts <- c(parts, rep("", 3 - length(parts)))
  groups <- ifelse(order == "{item}", paste0("(", item, ")"), paste0("(", waves, ")"))
  regex <- paste0("^", fixed(parts[1]), groups[1], fixed(parts[2]), groups[2], fixed(parts[3]), "$")
  column <- grep(regex, names, perl = TRUE, value = TRUE)
  if (length(column) == 0) {
    return(plain_table(column = column, item = column, wave = column))
  }
  part <- function(name) sub(regex, paste0("\\", match(name, order)), column, perl = TRUE)
  out <- plain_table(column = column, item = part("{item}"), wave = part("{wave}"))
  size <- table(out$wave)
  out[out$wave %in% names(size)[size >= max(size, 0) / 2], ]
}

# The pattern of columns: "{item}_t{wave}"; without {item} it is what stands behind an item's name.
check_wide <- function(pattern, arg = "wide") {
  check_string(pattern, arg)
  if (lengths(regmatches(pattern, gregexpr("{wave}", pattern, fixed = TRUE))) != 1) {
    stop_input(message_of("e_must_hold_once", arg = arg, pattern = pattern), hint = message_of("e_mood_t_mood"))
  }
  if (grepl("{item}", pattern, fixed = TRUE)) pattern else paste0("{item}", pattern)
}

ordered_waves <- function(waves) {
  known <- unique(waves)
  usual <- c("baseline", "pre", "post", "fu", "fup", "follow", "followup")
  if (all(tolower(known) %in% usual)) known[order(match(tolower(known), usual))] else wave_order(known)$order
}

# The waves in a column in their order, and how it was found: `wanted` (given by the user or the
# codebook), a factor's levels, dates, numbers (also behind one word, as in "t2"), else the order
# of first appearance. list(order: text, how).
wave_order <- function(column, wanted = NULL) {
  text <- as.character(column)
  known <- unique(text[!is.na(text)])
  if (!is.null(wanted)) {
    return(list(order = c(intersect(wanted, known), setdiff(known, wanted)), how = "given"))
  }
  if (is.factor(column)) {
    return(list(order = intersect(levels(column), known), how = "levels"))
  }
  if (length(known) < 2) {
    return(list(order = known, how = "one"))
  }
  for (how in c("dates", "numbers")) {
    value <- switch(how, dates = dates_of(column, known), numbers = numbers_of(known))
    if (!anyNA(value)) return(list(order = known[order(value)], how = how))
  }
  list(order = known, how = "appearance")
}

dates_of <- function(column, known) {
  if (inherits(column, c("Date", "POSIXct"))) {
    return(as.numeric(column)[match(known, as.character(column))])
  }
  for (form in c("%Y-%m-%d", "%Y/%m/%d", "%d.%m.%Y")) {
    value <- as.numeric(as.Date(known, format = form))
    if (!anyNA(value)) return(value)
  }
  rep(NA_real_, length(known))
}

# Numbers, or numbers behind one and the same word.
numbers_of <- function(known) {
  word <- sub("[0-9.]+$", "", known)
  plain <- suppressWarnings(as.numeric(known))
  if (!anyNA(plain) || length(unique(word)) > 1) plain else suppressWarnings(as.numeric(substring(known, nchar(word) + 1)))
}
