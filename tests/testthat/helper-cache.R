# What is kept between runs goes to a folder of the tests.
Sys.setenv(R_USER_CACHE_DIR = tempfile("cache-"))
