# frozen_string_literal: true

require_relative 'disk/faulty'
require_relative 'disk/line'
require_relative 'disk/paced'
