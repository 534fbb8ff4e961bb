# frozen_string_literal: true

# What an image is said to take before it is begun: used (bytes that are read), stored (bytes on the shelf) and seconds
# as [low, high], with the check where one is wished.
TakingForecast = Struct.new(:used, :stored, :seconds, keyword_init: true)
