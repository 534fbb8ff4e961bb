# frozen_string_literal: true

module Setup
  # Whether this machine's processor can run the emulated one takes seconds to
  # find out: once for all processes that are started from here.
  module Acceleration
    module_function

    # @return [Thread] that ends once it is in the environment
    def find_out
      Thread.new do
        Thread.current.report_on_exception = false # whoever waits for it is told
        ENV['EVREL_KVM'] ||= Setup.run('bundle', 'exec', RbConfig.ruby, '-I', 'lib', '-e',
                                       'require "evrel"; puts Evrel::Startup::Kvm.works? ? "yes" : "no"').strip
      end
    end
  end
end
